import { createServer } from 'node:http';

/**
 * A departures board that never rests: a clock, a ticker, an animation, a fetch three times a second and twenty changes
 * a second besides, none of which has anything to do with what a test does there.
 */
const page = `<!doctype html><html lang="en"><head><title>Lodos Ferries: departures</title><link rel="icon" href="data:,">
<style>
  body { font: 16px sans-serif; margin: 20px; }
  .wave { width: 60px; height: 8px; background: #0d4e63; animation: wave 1.2s linear infinite alternate; }
  @keyframes wave { to { transform: translateX(300px); } }
  footer { margin-top: 40px; color: #555; }
</style></head><body>
<h1>Departures</h1><div class="wave"></div>
<form><label>Passenger <input id="passenger"></label> <button type="button" id="hold" disabled>Hold</button></form>
<table><tbody id="board">${Array.from({ length: 20 }, (_, i) => `<tr data-sailing="${i}"><td class="time">${7 + i}:10</td><td class="to">Kuzu Island</td><td><button type="button" class="seat" data-seat="${i}">seat ${i}</button></td></tr>`).join('')}</tbody></table>
<p class="ticker"></p><p class="polled"></p><ul class="log"></ul><footer><span class="clock"></span></footer>
<script>
  const at = (css) => document.querySelector(css);
  setInterval(() => (at('.clock').textContent = new Date().toISOString()), 100);
  let n = 0;
  setInterval(() => (at('.ticker').textContent = 'Wind ' + (n++ % 40) + ' knots'), 150);
  setInterval(async () => (at('.polled').textContent = (await (await fetch('/poll?' + n)).json()).n), 330);
  setInterval(() => {
    const line = document.createElement('li');
    line.textContent = 'gate ' + n;
    at('.log').prepend(line);
    if (at('.log').children.length > 12) at('.log').lastChild.remove();
  }, 50);
  at('#passenger').addEventListener('input', () => (at('#hold').disabled = at('#passenger').value === ''));
  for (const seat of document.querySelectorAll('.seat'))
    seat.addEventListener('click', () => seat.setAttribute('aria-pressed', seat.getAttribute('aria-pressed') !== 'true'));
</script></body></html>`;

export interface RestlessPage {
  address: string;
  close(): Promise<void>;
}

export async function startRestlessPage(): Promise<RestlessPage> {
  let n = 0;
  const server = createServer((request, response) => {
    if (request.url?.startsWith('/poll')) {
      response.setHeader('content-type', 'application/json');
      return void response.end(JSON.stringify({ n: n++ }));
    }
    response.setHeader('content-type', 'text/html');
    response.end(page);
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as { port: number };
  return {
    address: `http://127.0.0.1:${port}`,
    close: async () => {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    },
  };
}
