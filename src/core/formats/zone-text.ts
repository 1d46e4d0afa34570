/** Minutes east of UTC a zone text means. */
export function zoneOf(zone: string | undefined, otherwise = 0): number {
  if (!zone) return otherwise;
  if (/^(z|utc|gmt)$/i.test(zone)) return 0;
  const found = /^([+-])(\d{2}):?(\d{2})$/.exec(zone);
  if (!found) return otherwise;
  return (found[1] === '-' ? -1 : 1) * (Number(found[2]) * 60 + Number(found[3]));
}
