/** Expected calibration error over ten equal bins of the probability that is given to what leads. */
export function calibrationError(list: readonly { probability: number; right: boolean }[]): number {
  const bins = Array.from({ length: 10 }, () => ({ said: 0, right: 0 }));
  for (const { probability, right } of list) {
    const bin = bins[Math.min(9, Math.floor(probability * 10))]!;
    bin.said += probability;
    bin.right += Number(right);
  }
  return bins.reduce((sum, { said, right }) => sum + Math.abs(said - right) / Math.max(1, list.length), 0);
}
