import { report, stamp, wall, worldOf, type Shape, type Try, type World } from './world.ts';

/** A file that is left, and whose it is. */
export interface Left {
  name: string;
  bytes: Buffer | 'picture';
  /** When it was written, where the folder keeps that. */
  written?: number;
  /** The try it is of; none for a stray; of several for what is shared out, by the marks of its entries. */
  of: string | 'nobody' | Map<string, string>;
  /** Whoever looks closely can know it. */
  knowable: boolean;
}

export interface Folder {
  habit: string;
  world: World;
  files: Left[];
  reports: { name: string; text: string }[];
  /** How the files come: side by side, or in an archive that keeps when they were written. */
  as: 'files' | 'tar' | 'zip';
}

export interface Habit {
  name: string;
  shape: Shape;
  leave(world: World): Omit<Folder, 'habit' | 'world'>;
}

const guid = (w: World): string =>
  [8, 4, 4, 4, 12].map((n) => Array.from({ length: n }, () => w.draw(0, 15).toString(16)).join('')).join('-');
const slug = (text: string): string => text.replace(/[^a-z]+/gi, '-').toLowerCase();
/** A moment of a try: right after it for what failed, else somewhere in it. */
const moment = (w: World, one: Try): number =>
  one.failed && w.random() < 0.7 ? one.until - w.draw(20, 400) : one.from + w.draw(400, one.until - one.from - 100);
const sentences = [
  'GET /sailings 200',
  'seat map drawn',
  'fare asked for',
  'harbour lights on',
  'cache warm',
  'retrying the printer',
];

interface Line {
  at: number;
  mark: string;
}
let marks = 0;
/** Entries of a try, each with a mark of its own. */
function linesOf(w: World, from: number, until: number, count: number): Line[] {
  return Array.from({ length: count }, () => ({
    at: Math.round(from + w.random() * (until - from)),
    mark: `m${++marks}x`,
  })).sort((a, b) => a.at - b.at);
}
const logText = (w: World, lines: readonly Line[], zone: number, how: 'comma' | 'zoned' | 'json' | 'syslog'): Buffer =>
  Buffer.from(
    lines
      .map(({ at, mark }) => {
        const t = wall(at, zone);
        const text = `${w.pick(sentences)} ${mark}`;
        if (how === 'json') return JSON.stringify({ level: 30, time: at, msg: text });
        if (how === 'zoned') return `${stamp(at, zone, 'offset', true)} INFO counter - ${text}`;
        if (how === 'syslog') return `${t.y}-${t.mo}-${t.d} ${t.h}:${t.mi}:${t.s} counter[1]: ${text}`;
        return `${t.y}-${t.mo}-${t.d} ${t.h}:${t.mi}:${t.s},${t.ms} [main] INFO  counter - ${text}`;
      })
      .join('\n') + '\n',
  );
const harText = (lines: readonly Line[]): Buffer =>
  Buffer.from(
    JSON.stringify({
      log: {
        version: '1.2',
        creator: { name: 'left', version: '1' },
        entries: lines.map(({ at, mark }) => ({
          startedDateTime: new Date(at).toISOString(),
          time: 12,
          request: {
            method: 'GET',
            url: `http://ferry.test/api/${mark}`,
            headers: [],
            queryString: [],
            httpVersion: 'HTTP/1.1',
            cookies: [],
            headersSize: -1,
            bodySize: 0,
          },
          response: {
            status: 200,
            statusText: 'OK',
            headers: [],
            httpVersion: 'HTTP/1.1',
            cookies: [],
            content: { size: 2, mimeType: 'application/json' },
            redirectURL: '',
            headersSize: -1,
            bodySize: 2,
          },
          cache: {},
          timings: { send: 1, wait: 10, receive: 1 },
        })),
      },
    }),
  );
const dayMs = 86_400_000;
/** Things that lie about: of another day, or of nobody. */
function strays(w: World, name: (at: number) => string): Left[] {
  const out: Left[] = [];
  const base = w.tries[0]!.from - w.draw(2, 9) * dayMs - w.draw(0, 40_000) * 1000;
  if (w.random() < 0.5) out.push({ name: name(base), bytes: 'picture', written: base, of: 'nobody', knowable: true });
  if (w.random() < 0.4)
    out.push({
      name: `yesterday/${guid(w)}.log`,
      bytes: logText(w, linesOf(w, base, base + 20_000, 12), w.zone, 'zoned'),
      written: base + 20_000,
      of: 'nobody',
      knowable: true,
    });
  if (w.random() < 0.3)
    out.push({
      name: 'notes.txt',
      bytes: Buffer.from('Ask Deniz about the key of the printer.\n'),
      written: base,
      of: 'nobody',
      knowable: true,
    });
  return out;
}
/** Whether another try ran at that time, so that the time alone cannot tell. */
const crowded = (w: World, own: Try, at: number): boolean =>
  w.tries.some((one) => one !== own && at > one.from - 1200 && at < one.until + 1200);
/** The whole of a run, its entries each of whoever ran then. */
function shared(w: World, lines: readonly Line[], tries: readonly Try[] = w.tries): Map<string, string> {
  const out = new Map<string, string>();
  for (const { at, mark } of lines) {
    const own = tries.filter((one) => at >= one.from && at <= one.until);
    out.set(mark, own.length === 1 ? own[0]!.key : own.length ? 'several' : 'nobody');
  }
  return out;
}
const hull = (w: World): [number, number] => [
  Math.min(...w.tries.map(({ from }) => from)),
  Math.max(...w.tries.map(({ until }) => until)),
];

const each = { tests: [2, 9], seconds: [2, 30] } as Shape;

/** Those that were looked at while rules were made. */
export const lookedAt: readonly Habit[] = [
  {
    name: 'pictures by ISO time, HARs by GUID',
    shape: each,
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: false, each: false }) }],
      files: [
        ...w.tries.flatMap((one): Left[] => {
          const at = moment(w, one);
          const t = wall(at, 0);
          const from = one.from + w.draw(100, 900);
          const lines = linesOf(w, from, Math.max(from + 300, one.until - w.draw(100, 900)), 9);
          return [
            {
              name: `${t.y}-${t.mo}-${t.d}T${t.h}-${t.mi}-${t.s}-${t.ms}Z.png`,
              bytes: 'picture',
              of: one.key,
              knowable: true,
            },
            { name: `${guid(w)}.har`, bytes: harText(lines), of: one.key, knowable: true },
          ];
        }),
        ...strays(w, (at) => `old/${new Date(at).toISOString().replaceAll(':', '-')}.png`),
      ],
    }),
  },
  {
    name: 'pictures by milliseconds, JSON logs',
    shape: { ...each, retries: true },
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'junit.xml', text: report(w, w.tries, { stamp: 'zulu', fine: true, each: true }) }],
      files: [
        ...w.tries.flatMap((one): Left[] => [
          { name: `screenshot-${moment(w, one)}.png`, bytes: 'picture', of: one.key, knowable: true },
          {
            name: `${guid(w)}.jsonl`,
            bytes: logText(w, linesOf(w, one.from + 200, one.until - 100, 7), 0, 'json'),
            of: one.key,
            knowable: true,
          },
        ]),
        ...strays(w, (at) => `screenshot-${at}.png`),
      ],
    }),
  },
  {
    name: 'a folder for each test',
    shape: { ...each, retries: true, workers: 2 },
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'results.xml', text: report(w, w.tries, { stamp: 'none', fine: true, each: true }) }],
      files: w.tries.flatMap((one): Left[] => {
        const folder = `${slug(one.title)}${one.number > 1 ? `-retry${one.number - 1}` : ''}`;
        return [1, 2].map((n): Left => ({ name: `${folder}/${n}.png`, bytes: 'picture', of: one.key, knowable: true }));
      }),
    }),
  },
  {
    name: 'one log of the server, in local time',
    shape: each,
    leave: (w) => {
      const [from, until] = hull(w);
      const lines = linesOf(w, from - 5000, until + 3000, 12 * w.tries.length);
      return {
        as: 'files',
        reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: true, each: true }) }],
        files: [
          { name: 'server.log', bytes: logText(w, lines, w.zone, 'comma'), of: shared(w, lines), knowable: true },
          ...strays(w, (at) => `s-${at}.png`),
        ],
      };
    },
  },
  {
    name: 'an archive with DOS times',
    shape: { tests: [2, 6], seconds: [8, 40] },
    leave: (w) => ({
      as: 'zip',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: false, each: true }) }],
      files: [
        ...w.tries.flatMap((one): Left[] => {
          const at = one.from + w.draw(3500, one.until - one.from - 3000);
          return [{ name: `${guid(w)}.png`, bytes: 'picture', written: at, of: one.key, knowable: true }];
        }),
        ...strays(w, () => `${guid(w)}.png`),
      ],
    }),
  },
  {
    name: 'a report without a zone beside HARs',
    shape: each,
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'TEST-counter.xml', text: report(w, w.tries, { stamp: 'none', fine: true, each: true }) }],
      files: w.tries.flatMap((one): Left[] => {
        const lines = linesOf(w, one.from + 150, one.until - 100, 8);
        return [
          { name: `${guid(w)}.har`, bytes: harText(lines), of: one.key, knowable: true },
          {
            name: `${guid(w)}.log`,
            bytes: logText(w, linesOf(w, one.from + 100, one.until - 50, 8), w.zone, 'comma'),
            of: one.key,
            knowable: true,
          },
        ];
      }),
    }),
  },
  {
    name: 'one picture of each failure, numbered',
    shape: { tests: [3, 9], seconds: [2, 20], failing: 0.5 },
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: true, each: true }) }],
      files: w.tries
        .filter(({ failed }) => failed)
        .map((one, i): Left => ({ name: `failure-${i + 1}.png`, bytes: 'picture', of: one.key, knowable: true })),
    }),
  },
];

/** Those that were not: each differs from the ones above in what it keeps and what it leaves out. */
export const neverLookedAt: readonly Habit[] = [
  {
    name: 'a tar with the times of writing',
    shape: each,
    leave: (w) => ({
      as: 'tar',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'zulu', fine: true, each: true }) }],
      files: [
        ...w.tries.flatMap((one): Left[] => {
          const at = one.from + w.draw(500, one.until - one.from - 400);
          return [
            { name: `${guid(w)}.png`, bytes: 'picture', written: at, of: one.key, knowable: true },
            {
              name: `${guid(w)}.log`,
              bytes: logText(w, linesOf(w, one.from + 100, one.until - 50, 6), w.zone, 'zoned'),
              written: one.until,
              of: one.key,
              knowable: true,
            },
          ];
        }),
        ...strays(w, () => `${guid(w)}.png`),
      ],
    }),
  },
  {
    name: 'pictures by local time',
    shape: { tests: [2, 7], seconds: [4, 30] },
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: true, each: true }) }],
      files: [
        ...w.tries.map((one): Left => {
          const at = one.from + w.draw(1500, one.until - one.from - 1200);
          const t = wall(at, w.zone);
          return {
            name: `Screenshot ${t.y}-${t.mo}-${t.d} at ${t.h}.${t.mi}.${t.s}.png`,
            bytes: 'picture',
            of: one.key,
            knowable: true,
          };
        }),
        ...strays(w, (at) => {
          const t = wall(at, w.zone);
          return `Screenshot ${t.y}-${t.mo}-${t.d} at ${t.h}.${t.mi}.${t.s}.png`;
        }),
      ],
    }),
  },
  {
    name: 'workers side by side, a log of each',
    shape: { tests: [6, 12], seconds: [3, 20], workers: 3 },
    leave: (w) => ({
      as: 'files',
      reports: [
        { name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: true, each: true, worker: true }) },
      ],
      files: [
        ...[0, 1, 2].flatMap((worker): Left[] => {
          const own = w.tries.filter((one) => one.worker === worker);
          const lines = own.flatMap((one) => linesOf(w, one.from + 20, one.until - 20, 8));
          return own.length > 1
            ? [
                {
                  name: `worker-${worker}.log`,
                  bytes: logText(w, lines, w.zone, 'comma'),
                  of: shared(w, lines, own),
                  knowable: true,
                },
              ]
            : [];
        }),
        ...w.tries.map((one): Left => {
          const at = moment(w, one);
          return { name: `w${one.worker}/${at}.png`, bytes: 'picture', of: one.key, knowable: true };
        }),
      ],
    }),
  },
  {
    name: 'workers side by side, nothing says which',
    shape: { tests: [4, 9], seconds: [3, 20], workers: 3 },
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: true, each: true }) }],
      files: w.tries.map((one): Left => {
        const at = one.from + w.draw(500, one.until - one.from - 400);
        return { name: `${at}.png`, bytes: 'picture', of: one.key, knowable: !crowded(w, one, at) };
      }),
    }),
  },
  {
    name: 'two shards, each with its report and its files',
    shape: { tests: [4, 10], seconds: [3, 20], shards: 2 },
    leave: (w) => ({
      as: 'files',
      reports: [0, 1].flatMap((shard) => {
        const own = w.tries.filter((one) => one.shard === shard);
        return own.length
          ? [
              {
                name: `shard-${shard + 1}/report.xml`,
                text: report(w, own, { stamp: 'offset', fine: true, each: true }),
              },
            ]
          : [];
      }),
      files: w.tries.map((one): Left => {
        const t = wall(moment(w, one), 0);
        return {
          name: `shard-${one.shard + 1}/${t.y}${t.mo}${t.d}T${t.h}${t.mi}${t.s}.${t.ms}Z.png`,
          bytes: 'picture',
          of: one.key,
          knowable: true,
        };
      }),
    }),
  },
  {
    name: 'parts of long tests',
    shape: { tests: [1, 5], seconds: [40, 240] },
    leave: (w) => ({
      as: 'files',
      reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: false, each: false }) }],
      files: [
        ...w.tries.flatMap((one): Left[] => {
          const from = one.from + w.draw(4000, one.until - one.from - 12_000);
          return [
            { name: `${guid(w)}.har`, bytes: harText(linesOf(w, from, from + 4000, 6)), of: one.key, knowable: true },
            {
              name: `${guid(w)}.txt`,
              bytes: logText(w, linesOf(w, from, from + 6000, 6), w.zone, 'syslog'),
              of: one.key,
              knowable: true,
            },
          ];
        }),
        ...strays(w, (at) => `${at}.png`),
      ],
    }),
  },
  {
    name: 'one HAR of the run, by a clock that is wrong',
    shape: { tests: [3, 7], seconds: [6, 30] },
    leave: (w) => {
      const [from, until] = hull(w);
      const lines = linesOf(w, from, until, 14 * w.tries.length);
      const skew = w.draw(-90_000, 90_000);
      // The server’s log names each request, and the test that began; its clock is the wrong one.
      const named = w.tries.map((one) => ({ at: one.from + 5, mark: `begins: ${one.title}` }));
      const log = [
        ...lines.map(({ at, mark }) => ({ at: at + skew, mark: `GET /api/${mark}` })),
        ...named.map(({ at, mark }) => ({ at: at + skew, mark })),
      ].sort((a, b) => a.at - b.at);
      return {
        as: 'files',
        reports: [{ name: 'report.xml', text: report(w, w.tries, { stamp: 'offset', fine: true, each: true }) }],
        files: [
          { name: `${guid(w)}.har`, bytes: harText(lines), of: shared(w, lines), knowable: true },
          { name: 'counter.log', bytes: logText(w, log, w.zone, 'zoned'), of: new Map(), knowable: true },
        ],
      };
    },
  },
];

export function leave(habit: Habit, seed: number): Folder {
  const world = worldOf(seed, habit.shape);
  return { habit: habit.name, world, ...habit.leave(world) };
}
