// A test as a program of its own, so that it can be killed: opens a session and goes on until nobody answers.
// Arguments: the address ending in /wd, the site, a title, the launch arguments as JSON.
const [remote, site, title, args] = process.argv.slice(2);
const call = async (method, path, body) => {
  const answer = await fetch(remote + path, {
    method,
    ...(method === 'POST' ? { body: JSON.stringify(body ?? {}), headers: { 'content-type': 'application/json' } } : {}),
  });
  const { value } = await answer.json();
  if (!answer.ok) throw new Error(value?.error ?? answer.status);
  return value;
};
try {
  const { sessionId, capabilities } = await call('POST', '/session', {
    capabilities: {
      alwaysMatch: {
        browserName: 'chrome',
        'goog:chromeOptions': { args: JSON.parse(args) },
        'iskel:attempt': { run: 'killed', test: { suite: 'standing', title } },
      },
    },
  });
  console.log(capabilities['iskel:attempt'].id);
  const session = `/session/${sessionId}`;
  for (;;) {
    await call('POST', `${session}/url`, { url: `${site}/sailings/l-2130` });
    const field = Object.values(
      await call('POST', `${session}/element`, { using: 'css selector', value: '#passenger' }),
    )[0];
    await call('POST', `${session}/element/${field}/value`, { text: 'Ada' });
    await call('GET', `${session}/screenshot`);
  }
} catch {
  process.exit(7);
}
