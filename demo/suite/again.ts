// The ferry suite as a test command of a team's own: runs the tests that Iskel names, recorded where it says.
// Started by Iskel's “only these again”, with ISKEL_TITLES, ISKEL_REMOTE and ISKEL_RUN in its environment.
import { playTest } from './run.ts';
import { ferryTests } from './tests.ts';

const {
  ISKEL_TITLES = '',
  ISKEL_REMOTE = '',
  ISKEL_RUN = '',
  ISKEL_REPETITION = '1',
  FERRY_ADDRESS = '',
} = process.env;
const titles = ISKEL_TITLES.split('\n');
const chosen = ferryTests.filter(({ title }) => titles.includes(title));
console.log(`${chosen.length} of the ${titles.length} tests asked for are of this suite; time ${ISKEL_REPETITION}`);
let failed = 0;
for (const test of chosen) {
  const from = Date.now();
  const { failure } = await playTest(
    { remote: ISKEL_REMOTE, run: ISKEL_RUN, address: FERRY_ADDRESS },
    test,
    Number(ISKEL_REPETITION),
  );
  const took = `${((Date.now() - from) / 1000).toFixed(1)} s`;
  console.log(
    failure ? `  failed  ${test.title} (${took})\n          ${failure.message}` : `  passed  ${test.title} (${took})`,
  );
  if (failure) failed++;
}
console.log(`${chosen.length - failed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
