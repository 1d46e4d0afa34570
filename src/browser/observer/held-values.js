// What fields hold, told as they are typed into, and told again when the page has made it something else
// without a word: setting a value gives no signal, so fields once typed into are looked at again at every
// press and change of focus, and at the end. One function expression, sent as text beside in-page.js.
({ now, push, latest, describe, isSecret, cut }) => {
  const mostFields = 30;
  const told = new Map();
  const holds = (el) => {
    if (el.type === 'checkbox' || el.type === 'radio') return el.checked ? 'ticked' : 'not ticked';
    return isSecret(el) ? '«masked»' : cut(el.value, 400);
  };
  const tell = (el, t) => {
    const value = holds(el);
    if (told.get(el) === value) return;
    if (told.size > mostFields) told.delete(told.keys().next().value);
    told.set(el, value);
    push({ k: 'held', t, d: describe(el), v: value });
  };
  return {
    input: (el, t) => {
      if (!el || typeof el.value !== 'string') return;
      // Key by key only the latest of one batch tells something.
      const last = latest();
      if (last && last.k === 'held' && last.d === describe(el)) {
        told.set(el, (last.v = holds(el)));
        last.t = t;
      } else tell(el, t);
    },
    look: () => {
      for (const el of told.keys()) {
        if (el.isConnected) tell(el, now());
        else told.delete(el);
      }
    },
  };
};
