// What masking takes of ordinary console text, in MB a second: with nothing declared, with a few secrets, with many,
// and with a pattern of one's own. The goal is 50 with a few.
// Run: npm run bench:masking [rounds]
import { createMasker } from '../src/core/evidence/masking.ts';
import { linearPattern } from '../src/core/patterns/linear-pattern.ts';
import { median } from '../src/core/stats/median.ts';

const rounds = Number(process.argv[2]) || 5;
const lines = Array.from(
  { length: 150_000 },
  (_, i) =>
    `2026-11-28T07:${i % 60}:12.${i % 1000} INFO http-${i % 9} ferry.SeatService - seat ${i} on sailing L-${i % 3000} held for passenger number ${i * 7}, fare 120.5${i % 10} TRY, took ${i % 400} ms`,
);
const megabytes = lines.reduce((sum, line) => sum + line.length, 0) / 1e6;
const few = ['lantern-77', 'pier&co"x', '4711-0815', 'Kuzu Island gate 12'];
const maskers = {
  'nothing declared': createMasker(),
  'four secrets': createMasker(few),
  'two hundred secrets': createMasker(Array.from({ length: 200 }, (_, i) => `harbour-${i}-word-${i * i}`)),
  'four secrets and a pattern of one’s own': createMasker(few, [linearPattern('TRY-[0-9]{4}')]),
};
for (const [name, masker] of Object.entries(maskers)) {
  const rates = Array.from({ length: rounds }, () => {
    const from = performance.now();
    for (const line of lines) masker.text(line);
    return megabytes / ((performance.now() - from) / 1000);
  });
  const [least, most] = [Math.min(...rates), Math.max(...rates)];
  console.log(
    `${name.padEnd(42)} median ${median(rates).toFixed(0)} MB/s   (${least.toFixed(0)} to ${most.toFixed(0)})`,
  );
}
