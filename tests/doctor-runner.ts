// A small runner of its own: one test of a page, in the browser it is told, with or without a report. For tests of `iskel doctor`.
import { writeFileSync } from 'node:fs';
import { openPage, overPipe } from './devtools-client.ts';

const [browser, address, report] = process.argv.slice(2);
const client = overPipe({}, browser);
await client.send('Browser.getVersion');
const from = Date.now();
const page = await openPage(client, true);
await page.open(address!);
await page.until(`document.querySelector('a') !== null`);
await page.close();
await client.close();
if (report)
  writeFileSync(
    report,
    `<testsuite name="ferry"><testcase classname="ferry" name="shows the sailings" timestamp="${new Date(from).toISOString()}" time="${(Date.now() - from) / 1000}"/></testsuite>`,
  );
