// Fields that hold secrets. Once one was a password field it stays secret, whatever the page makes of it; and what it holds is
// told, so that it is masked wherever else it turns up: in arguments of scripts, in what is logged or sent. Nothing of it is
// kept. Setting a value gives no signal, so known fields are looked at before everything that is done and from time to time.
// One function expression, sent as text beside in-page.js.
({ tell, now, later, on }) => {
  const most = 50;
  const mostInputs = 2000;
  const settledMs = 120;
  const searchEveryMs = 100;
  const marks = /password|one-time-code|cc-csc/;
  // Shown from the start, it is a password all the same.
  const called = /pass(?:word|wd|code|phrase)|(?:^|[-_])(?:pwd|otp|cvv|cvc)(?:$|[-_])/i;
  const typed = /^(?:text|tel|number|search)$/;
  const ever = new WeakSet();
  const fields = new Map();
  const keep = (el) => {
    ever.add(el);
    if (!fields.has(el) && fields.size < most) fields.set(el, { value: '', since: 0, told: '' });
  };
  const isSecret = (el) => {
    if (el.localName !== 'input') return false;
    if (
      el.type === 'password' ||
      marks.test(el.autocomplete || '') ||
      (typed.test(el.type) && called.test(`${el.id} ${el.name}`))
    )
      keep(el);
    return ever.has(el);
  };
  const inputs = document.getElementsByTagName('input');
  let soon = false;
  let searchedAt = -Infinity;
  // What is still being typed is told once it rests, unless something is done with it now. What it then turns out to be only
  // the beginning of is told as that: a word that many texts hold is no secret by itself.
  const look = (atOnce) => {
    const t = now();
    // A page that changes all the time is not searched each time.
    if (atOnce || t - searchedAt >= searchEveryMs) {
      searchedAt = t;
      for (let i = 0; i < inputs.length && i < mostInputs; i++) if (isSecret(inputs[i])) keep(inputs[i]);
    }
    let open = false;
    for (const [el, known] of fields) {
      const { value } = el;
      if (value !== known.value) {
        known.value = value;
        known.since = t;
      }
      if (value.length > 2 && value !== known.told) {
        if (atOnce || t - known.since >= settledMs) {
          tell(value, known.told && value.startsWith(known.told) ? known.told : undefined);
          known.told = value;
        } else open = true;
      }
      if (!el.isConnected) fields.delete(el);
    }
    if (open && !soon) {
      soon = true;
      later(() => {
        soon = false;
        look(false);
      }, settledMs + 5);
    }
  };
  for (const type of ['pointerdown', 'focusin', 'focusout', 'change', 'submit', 'pagehide', 'click'])
    on(type, () => look(true));
  on('keydown', (event) => look(event.key === 'Enter' || event.key === 'Tab'));
  on('input', (event) => {
    const el = event.composedPath()[0];
    if (el && el.nodeType === 1 && isSecret(el)) look(false);
  });
  return { isSecret, look };
};
