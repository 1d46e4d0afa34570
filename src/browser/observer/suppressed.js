// Runs in the page's own world of every document, since other worlds are not told of what is thrown there. Tells of exceptions
// and rejections that nothing caught and that a handler on the page kept from being told. One function expression.
(tell) => {
  const origin = performance.timeOrigin;
  const now = performance.now.bind(performance);
  const later = setTimeout.bind(window);
  const written = JSON.stringify;
  const cut = (text) => String(text).slice(0, 2000);
  let left = 100;
  const hear = (event) => {
    if (left <= 0 || (event.type === 'error' && typeof event.message !== 'string')) return;
    const t = origin + now();
    // Every handler has its turn before it is known whether one of them suppressed it.
    later(() => {
      if (!event.defaultPrevented || left-- <= 0) return;
      const thrown = event.type === 'error' ? event.error : event.reason;
      const has = (name) => typeof thrown === 'object' && thrown !== null && typeof thrown[name] === 'string';
      const text = event.message || (has('stack') ? thrown.stack.split('\n')[0] : thrown);
      tell(
        written([
          {
            k: 'suppressed',
            t,
            x: cut(text).replace(/^Uncaught /, ''),
            ...(event.filename ? { s: `${event.filename}:${event.lineno}` } : {}),
            ...(has('stack') ? { r: cut(thrown.stack) } : {}),
          },
        ]),
      );
    });
  };
  addEventListener('error', hear, true);
  addEventListener('unhandledrejection', hear, true);
};
