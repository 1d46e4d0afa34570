/** The name of the first of the files whose paths were typed; where they lie is each machine’s own affair. */
export const fileName = (typed: string): string => typed.split('\n')[0]!.replace(/^.*[\\/]/, '');
/** True for the full path of a file, as it is typed into a file field. */
export const isFilePath = (typed: string): boolean =>
  /^(?:\/|[a-z]:\\)[^\n]*[\\/][^\\/\n]+\.[a-z0-9]{1,5}(?:\n|$)/i.test(typed);
