import fc from 'fast-check';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import type { EvidenceEvent } from '../evidence/event.ts';
import { exchange, line, step } from '../evidence/samples.ts';
import type { Attempt } from '../records.ts';
import { writeConsole } from './console-text.ts';
import { writeCsv } from './csv.ts';
import { readHar, writeHar } from './har.ts';
import { writeJunit } from './junit-write.ts';
import { JunitReader } from './junit.ts';
import { readLog } from './log-text.ts';
import { isOtlp, readOtlp } from './otlp.ts';
import { readPicture, withoutTexts } from './picture.ts';
import type { ReportCase } from './report.ts';
import { readStreamed } from '../evidence/streamed.ts';
import { readVtt, stampOf, writeVtt } from './vtt.ts';

const start = Date.UTC(2026, 10, 23, 10);

describe('HTTP archives', () => {
  it('go out and come back with what they said', () => {
    const events: EvidenceEvent[] = [
      exchange(10.5, 90.25, {
        url: 'http://ferry.test/fares?day=1',
        method: 'POST',
        status: 503,
        mime: 'text/html',
        requestHeaders: { accept: 'x' },
        firstByteMs: 60,
      }),
      exchange(100, 100, { url: 'http://out.test/x', status: undefined, failed: 'net::ERR_FAILED' }),
    ];
    const har = readHar(JSON.parse(writeHar(events, start, 'holds', '1')));
    expect(har.problems).toEqual([]);
    expect(har.exchanges[0]).toMatchObject({
      at: start + 10,
      durationMs: 79.75,
      data: {
        url: 'http://ferry.test/fares?day=1',
        method: 'POST',
        status: 503,
        host: 'ferry.test',
        requestHeaders: { accept: 'x' },
      },
    });
    expect(har.exchanges[1]!.data.failed).toBe('net::ERR_FAILED');
    expect(har.document).toBe('http://ferry.test/fares?day=1');
  });
  it('are refused or listed in words when they are none', () => {
    expect(() => readHar({ log: {} })).toThrow(/log.entries/);
    expect(
      readHar({ log: { entries: [{}, null, 7, { startedDateTime: 'x', request: { url: 'http://a' } }] } }).problems,
    ).toHaveLength(4);
  });
});

describe('OTLP', () => {
  const value = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
  const traces = {
    resourceSpans: [
      {
        resource: { attributes: [value('service.name', 'desk')] },
        scopeSpans: [
          {
            spans: [
              {
                traceId: 't',
                spanId: 's1',
                name: 'GET',
                startTimeUnixNano: '1795428001250500000',
                endTimeUnixNano: '1795428001350500000',
                attributes: [
                  value('http.request.method', 'GET'),
                  value('url.full', 'http://ferry.test/fares'),
                  { key: 'http.response.status_code', value: { intValue: '200' } },
                ],
              },
              {
                traceId: 't',
                spanId: 's2',
                parentSpanId: 's1',
                name: 'ask ledger',
                startTimeUnixNano: '1795428001260000000',
                endTimeUnixNano: '1795428001270000000',
                status: { code: 2 },
                events: [
                  {
                    name: 'exception',
                    timeUnixNano: '1795428001265000000',
                    attributes: [value('exception.message', 'ledger closed')],
                  },
                ],
              },
              { name: 'no start' },
            ],
          },
        ],
      },
    ],
  };
  it('gives exchanges, notes and exceptions in time', () => {
    expect(isOtlp(traces)).toBe(true);
    const { records, services, problems } = readOtlp([traces]);
    expect(services).toEqual(['desk']);
    expect(records.map((one) => one.lane)).toEqual(['network', 'service', 'console']);
    expect(records[0]).toMatchObject({
      at: 1795428001250.5,
      until: 1795428001350.5,
      data: { status: 200, host: 'ferry.test' },
    });
    expect(records[1]!.data).toMatchObject({ label: 'desk: ask ledger', ok: false, parent: 's1' });
    expect(records[2]!.data).toMatchObject({ level: 'error', text: 'ledger closed' });
    expect(problems).toHaveLength(1);
  });
  it('reads logs too', () => {
    const { records } = readOtlp([
      {
        resourceLogs: [
          {
            scopeLogs: [
              {
                logRecords: [
                  { timeUnixNano: '1795428001265000000', severityNumber: 13, body: { stringValue: 'late' } },
                ],
              },
            ],
          },
        ],
      },
    ]);
    expect(records[0]!.data).toEqual({ level: 'warning', text: 'late' });
  });
});

describe('WebVTT', () => {
  it('reads cues with their times, and lists broken ones', () => {
    const { cues, problems } = readVtt(
      'WEBVTT - x\n\n1\n00:01.500 --> 00:02.000 line:0\n<b>Press</b> &lt;hold&gt;\nseat\n\nbad --> worse\n\n01:00:00.000 --> 00:00:01.000\nx\n',
    );
    expect(cues).toEqual([{ at: 1500, until: 2000, text: 'Press <hold>\nseat' }]);
    expect(problems.map((one) => one.line)).toEqual([8, 10]);
    expect(() => readVtt('WEBVT')).toThrow(/first line/);
  });
  it('writes the steps beside a video that began later', () => {
    const text = writeVtt(
      [step(1000, 1200, { action: 'press', label: 'Press on “Hold --> seat”' }), step(5, 10, { action: 'open' })],
      900,
    );
    expect(readVtt(text).cues).toEqual([{ at: 100, until: 300, text: 'Press on “Hold --> seat”' }]);
    expect(stampOf(3_723_004)).toBe('01:02:03.004');
  });
});

describe('consoles and tables', () => {
  it('the console goes out as lines our own log reader reads back', () => {
    const read = readLog(writeConsole([line(5, 'late\nby far', 'error'), line(20.4, 'ok')], start))!;
    expect(read.entries.map(({ at, level, text }) => [at - start, level, text])).toEqual([
      [5, 'error', 'late\n    by far'],
      [20, 'info', 'ok'],
    ]);
  });
  it('cells are quoted, and no cell is a formula', () => {
    expect(
      writeCsv(
        ['a', 'b'],
        [
          ['x,"y"', '=1+1'],
          [1.5, null],
        ],
      ),
    ).toBe('a,b\r\n"x,""y""",\'=1+1\r\n1.5,\r\n');
  });
});

describe('JUnit XML', () => {
  const attempt = (title: string, more: Partial<Attempt> = {}): Attempt =>
    ({
      id: 'a-1',
      runId: 'r',
      test: { id: 't', suite: 'booking / holds', title },
      number: 1,
      outcome: 'passed',
      environment: { browser: 'chromium', version: '1', key: 'chromium 1' },
      startedAt: start,
      durationMs: 1250,
      message: '',
      stack: '',
      labels: {},
      failure: null,
      ...more,
    }) as Attempt;
  it('goes out and comes back, whatever the texts hold', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.string({ unit: 'binary', minLength: 1 }), fc.string({ unit: 'grapheme' })), {
          minLength: 1,
          maxLength: 8,
        }),
        (texts) => {
          const attempts = texts.map(([title, message], i) =>
            attempt(`${i}${title}`, i % 2 ? { outcome: 'failed', message: `m${message}`, stack: message } : {}),
          );
          const cases: ReportCase[] = [];
          const reader = new JunitReader((one) => cases.push(one));
          reader.write(writeJunit({ name: 'run', startedAt: start }, attempts));
          reader.close();
          expect(reader.problems).toEqual([]);
          expect(cases.map((one) => one.outcome)).toEqual(attempts.map((one) => one.outcome));
          expect(
            cases.every((one) => one.suite === 'booking / holds' && one.durationMs === 1250 && one.startedAt === start),
          ).toBe(true);
        },
      ),
    );
  });
});

describe('pictures', () => {
  const secret = 'hunter-of-harbours-42';
  const make = (format: 'png' | 'jpeg' | 'webp'): Promise<Buffer> =>
    sharp({ create: { width: 48, height: 30, channels: 3, background: '#357' } })
      .withExif({ IFD0: { ImageDescription: secret } })
      .toFormat(format)
      .toBuffer();
  it.each(['png', 'jpeg', 'webp'] as const)('%s: size is read, texts are dropped, pixels stay', async (format) => {
    const bytes = await make(format);
    expect(readPicture(bytes)).toEqual({ mime: `image/${format}`, width: 48, height: 30 });
    expect(bytes.includes(secret)).toBe(true);
    const clean = Buffer.from(withoutTexts(Buffer.concat([bytes, Buffer.from(secret)])));
    expect(clean.includes(secret)).toBe(false);
    const before = await sharp(bytes).raw().toBuffer();
    expect((await sharp(clean).raw().toBuffer()).equals(before)).toBe(true);
  });
  it('that lie about their size are refused', async () => {
    const png = await make('png');
    const huge = Buffer.from(png);
    huge.writeUInt32BE(60_000, 16);
    expect(() => readPicture(huge)).toThrow(/60000 × 30/);
    // Interlaced, it has to be held whole: 16 bits of four channels.
    const head = Buffer.alloc(2_000_000);
    head.write('89504e470d0a1a0a0000000d49484452', 'hex');
    head.writeUInt32BE(16_384, 16);
    head.writeUInt32BE(16_384, 20);
    head.set([16, 6, 0, 0, 1], 24);
    expect(() => readPicture(head)).toThrow(/held whole/);
    head[28] = 0;
    expect(readPicture(head)).toMatchObject({ width: 16_384 });
    huge.writeUInt32BE(16_000, 16);
    huge.writeUInt32BE(16_000, 20);
    expect(() => readPicture(huge)).toThrow(/cannot be/);
    huge.writeUInt32BE(0, 16);
    expect(() => readPicture(huge)).toThrow(/no size/);
    expect(readPicture(Buffer.from('GIF89a not one of ours, really not'))).toBeUndefined();
  });
  it('that are cut anywhere never do more than throw', async () => {
    for (const format of ['png', 'jpeg', 'webp'] as const) {
      const bytes = await make(format);
      for (let cut = 0; cut < bytes.length; cut += 3) {
        try {
          readPicture(bytes.subarray(0, cut));
        } catch (error) {
          expect((error as Error).message).toMatch(/picture/);
        }
        withoutTexts(bytes.subarray(0, cut));
      }
    }
  });
});

describe('streamed events', () => {
  it('fill in what follows from the rest', () => {
    expect(
      readStreamed(
        { id: '1', lane: 'network', time: '2026-11-23T10:00:01Z', data: { url: 'http://ferry.test/a' } },
        start,
      ),
    ).toMatchObject({
      at: 1000,
      kind: 'exchange',
      clock: 'reporter',
      data: { method: 'GET', host: 'ferry.test', own: true, request: '1' },
    });
    expect(readStreamed({ id: '2', lane: 'console', at: 5, data: { text: 'x', level: 'WARN' } }, start)).toMatchObject({
      data: { level: 'warning' },
    });
  });
  it.each([
    [[], /JSON object/],
    [{ lane: 'step' }, /“id”/],
    [{ id: '1', lane: 'sky' }, /“lane”/],
    [{ id: '1', lane: 'step', kind: 'leap' }, /“kind”/],
    [{ id: '1', lane: 'step' }, /“at”/],
    [{ id: '1', lane: 'step', at: 1, data: 7 }, /“data”/],
    [{ id: '1', lane: 'step', at: 1, data: {} }, /“label”/],
    [{ id: '1', lane: 'element', at: 1, data: { locator: '#a' } }, /“state”/],
    [{ id: '1', lane: 'note', at: Number.NaN, data: { label: 'x' } }, /“at”/],
  ])('%j is refused in words', (raw, words) => expect(() => readStreamed(raw, start)).toThrow(words));
});
