/** A tag's markup as a short name: `div.notice`. */
export function markupName(markup: string): string {
  const tag = /^<([a-z0-9-]+)/i.exec(markup)?.[1] ?? markup;
  const id = /\bid="([^"]+)"/.exec(markup)?.[1];
  const classes = /\bclass="([^"]+)"/.exec(markup)?.[1]?.trim().split(/\s+/).slice(0, 2).join('.');
  return `${tag}${id ? `#${id}` : ''}${classes ? `.${classes}` : ''}`;
}
