import { createServer } from 'node:net';
import { expect, it } from 'vitest';
import { unreachablePort } from './unreachable-port.ts';

it('gives ports that no page may speak to, each once', async () => {
  const ports = await Promise.all(Array.from({ length: 8 }, () => unreachablePort()));
  expect(new Set(ports).size).toBe(8);
  // Node's own fetch keeps to the same list.
  for (const port of ports)
    await expect(fetch(`http://127.0.0.1:${port}/`)).rejects.toMatchObject({ cause: { message: 'bad port' } });
});

it('gives none that is taken', async () => {
  const port = await unreachablePort();
  const server = createServer();
  await new Promise<void>((done) => server.listen(port, '127.0.0.1', done));
  const others = await Promise.all(Array.from({ length: 6 }, () => unreachablePort()));
  server.close();
  expect(others).not.toContain(port);
});
