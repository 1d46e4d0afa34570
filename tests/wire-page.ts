import { createServer, type Server } from 'node:http';

/** A page with something for every WebDriver command, the same at every load. */
const pages: Record<string, string> = {
  '/': `<!doctype html><title>Wire</title><style>body{margin:20px;font:16px sans-serif}#cover{position:absolute;left:300px;top:20px;width:120px;height:40px;background:#ccc}#under{position:absolute;left:310px;top:28px}</style>
<h1 id="head" class="big" data-x="1">Wire page</h1>
<input id="name" name="name" value="Ada"><input id="pass" type="password"><input id="box" type="checkbox" checked><input id="off" disabled>
<select id="pick"><option value="a">A</option><option value="b" selected>B</option></select>
<a id="link" href="/two">Second page</a> <a href="/two" target="_blank" id="tab">New tab</a>
<button id="gone" onclick="this.remove()">Remove me</button><button id="anew" onclick="document.getElementById('list').innerHTML='<li>three</li>'">Anew</button>
<ul id="list"><li>one</li><li>two</li></ul><button id="under">Under</button><div id="cover">cover</div>
<button id="al" onclick="alert('hello')">alert</button><button id="co" onclick="document.title='c'+confirm('sure')">confirm</button><button id="pr" onclick="document.title='p'+prompt('name?','x')">prompt</button>
<p id="hidden" style="display:none">hidden</p><iframe id="frame" src="/frame" width="300" height="80"></iframe>
<div id="host"></div><script>document.getElementById('host').attachShadow({mode:'open'}).innerHTML='<b id="inside">shadow text</b>'</script>`,
  '/two':
    '<!doctype html><title>Two</title><h1>Second</h1><div style="height:3000px"></div><button id="far">far</button>',
  '/frame': '<!doctype html><title>Frame</title><p id="inframe">in the frame</p><button id="fb">press</button>',
  '/slow': 'slow',
};

export async function wirePage(): Promise<{ address: string; close: () => void }> {
  const server: Server = createServer((request, response) => {
    const page = pages[request.url ?? ''];
    const answer = (): void => {
      response.writeHead(page ? 200 : 404, {
        'content-type': 'text/html; charset=utf-8',
        'set-cookie': 'made=up; Path=/',
      });
      response.end(page ?? 'nothing');
    };
    if (request.url === '/slow') setTimeout(answer, 1500);
    else answer();
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return {
    address: `http://127.0.0.1:${(server.address() as { port: number }).port}`,
    close: () => void (server.closeAllConnections(), server.close()),
  };
}
