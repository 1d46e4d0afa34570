// Fields that hold secrets. Once one was a password field it stays secret, whatever the page makes of it; and what it holds is
// told, so that it is masked wherever else it turns up: in arguments of scripts, in what is logged or sent. Nothing of it is
// kept. Setting a value gives no signal, so known fields are looked at before everything that is done and from time to time.
// One function expression, sent as text beside in-page.js.
({ tell, later, on }) => {
  const most = 50;
  const mostInputs = 2000;
  const settledMs = 120;
  const marks = /password|one-time-code|cc-csc/;
  const ever = new WeakSet();
  const fields = new Map();
  const told = new Set();
  const keep = (el) => {
    if (ever.has(el)) return;
    ever.add(el);
    if (fields.size < most) fields.set(el, '');
  };
  const isSecret = (el) => {
    if (el.localName !== 'input') return false;
    if (el.type === 'password' || marks.test(el.autocomplete || '')) keep(el);
    return ever.has(el);
  };
  const inputs = document.getElementsByTagName('input');
  let soon = false;
  // What is still being typed is told once it rests, unless something is done with it now.
  const look = (now) => {
    for (let i = 0; i < inputs.length && i < mostInputs; i++) isSecret(inputs[i]);
    let open = false;
    for (const [el, was] of fields) {
      const { value } = el;
      if (value !== was && !now) open = true;
      else if (value.length > 2 && !told.has(value)) {
        if (told.size > 500) told.clear();
        told.add(value);
        tell(value);
      }
      fields.set(el, value);
      if (!el.isConnected) fields.delete(el);
    }
    if (open && !soon) {
      soon = true;
      later(() => {
        soon = false;
        look(false);
      }, settledMs);
    }
  };
  for (const type of ['pointerdown', 'focusin', 'focusout', 'change', 'submit', 'pagehide', 'click'])
    on(type, () => look(true));
  on('keydown', (event) => look(event.key === 'Enter' || event.key === 'Tab'));
  on('input', (event) => {
    const el = event.composedPath()[0];
    if (el && el.nodeType === 1 && isSecret(el)) look(false);
  });
  return { isSecret, look, any: () => fields.size > 0 };
};
