/**
 * An address without its query and fragment.
 * @example bareAddress('http://ferry.test/sailings?day=2#top') // 'http://ferry.test/sailings'
 */
export function bareAddress(address: string): string {
  const end = address.search(/[?#]/);
  return end < 0 ? address : address.slice(0, end);
}
