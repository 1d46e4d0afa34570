// A reporter for Node's own test runner: node --test --test-reporter=./reporter.mjs
// Streams each test to Iskel as an attempt. Copy it and change what your runner tells differently.
const base = process.env.ISKEL ?? 'http://127.0.0.1:4870';
const run = process.env.ISKEL_RUN ?? `node ${new Date().toISOString()}`;

async function send(method, path, body, type = 'application/json') {
  const answer = await fetch(`${base}/api${path}`, { method, body, headers: { 'content-type': type } });
  if (!answer.ok) console.error(`Iskel: ${(await answer.json()).error.message}`);
  return answer.json().catch(() => ({}));
}

export default async function* reporter(source) {
  const suites = [];
  for await (const { type, data } of source) {
    if (type === 'test:start') suites[data.nesting] = data.name;
    if (type !== 'test:pass' && type !== 'test:fail') continue;
    if (data.details.type === 'suite') continue;
    const error = data.details.error?.cause ?? data.details.error;
    const startedAt = Date.now() - data.details.duration_ms;
    const { id } = await send(
      'POST',
      '/attempts',
      JSON.stringify({
        key: `${data.file}:${data.line}:${data.name}`,
        run,
        test: { suite: suites.slice(0, data.nesting).join(' / '), title: data.name, file: data.file },
        startedAt,
        environment: { browser: process.env.BROWSER ?? 'browser not told', version: '' },
        secrets: process.env.ISKEL_SECRETS?.split(',') ?? [],
      }),
    );
    const events = [{ id: 'whole', lane: 'step', at: 0, until: data.details.duration_ms, data: { label: data.name } }];
    if (error)
      events.push({
        id: 'error',
        lane: 'console',
        at: data.details.duration_ms,
        data: { level: 'error', text: String(error.message) },
      });
    await send(
      'POST',
      `/attempts/${id}/events`,
      events.map((one) => JSON.stringify(one)).join('\n'),
      'application/x-ndjson',
    );
    await send(
      'POST',
      `/attempts/${id}/outcome`,
      JSON.stringify({
        status: data.skip !== undefined ? 'skipped' : type === 'test:pass' ? 'passed' : 'failed',
        message: error ? String(error.message) : '',
        stack: error?.stack ?? '',
        durationMs: data.details.duration_ms,
      }),
    );
    yield '';
  }
}
