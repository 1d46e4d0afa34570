/** A stack as it would be written anywhere: without the folder this checkout lies in. */
export const stackOf = ({ stack = '' }: Error): string =>
  stack.replaceAll(`file://${process.cwd()}/`, '').replaceAll(`${process.cwd()}/`, '');
