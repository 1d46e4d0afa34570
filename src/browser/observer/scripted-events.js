// What scripts dispatch, told as what was done to the page: tests that run inside it, beside the application, act so. In a page that
// a person or a driver ever acted on the application itself clicks and changes things, which is told as well: a client may have
// done it by a function of its own. One function expression, sent as text beside in-page.js.
({ on, origin, push, describe, isSecret, cut }) => {
  const mostLevels = 12;
  const named = /^[A-Za-z][\w-]*$/;
  const told = (el) => {
    if (el.id && named.test(el.id)) return `#${el.id}`;
    for (const { name, value } of el.attributes)
      if (/^(?:data-(?!v-|react)[a-z-]+|name)$/.test(name) && value && value.length < 60 && !/["\\\n]/.test(value))
        return `[${name}="${value}"]`;
    return '';
  };
  // The shortest way to name an element that finds it and nothing before it.
  const pathTo = (el) => {
    const root = el.getRootNode();
    let path = '';
    for (let one = el, level = 0; one && one.nodeType === 1 && level < mostLevels; one = one.parentElement, level++) {
      const own = told(one);
      const same = one.parentElement
        ? [...one.parentElement.children].filter((other) => other.localName === one.localName)
        : [];
      const place = same.length > 1 ? `:nth-of-type(${same.indexOf(one) + 1})` : '';
      for (const way of own ? [own] : [one.localName + place]) {
        const whole = path ? `${way} > ${path}` : way;
        if (root.querySelector(whole) === el && root.querySelectorAll(whole).length === 1) return whole;
        path = whole;
      }
    }
    return path;
  };
  // Whether the document was opened by the page around it, and not by what was done in the one before.
  const openedFromAround = () => {
    try {
      return window !== window.parent && document.referrer === window.parent.location.href;
    } catch {
      return false;
    }
  };
  // Until it is known whether they are wanted they are kept: what runs in a page does not wait for us.
  const mostEarly = 300;
  const mostAfterwards = 200;
  let afterwards = 0;
  let wanted;
  const early = [];
  const hear = (event) => {
    if (wanted === false || event.isTrusted) return;
    const active = Boolean(navigator.userActivation && navigator.userActivation.hasBeenActive);
    if (active && ++afterwards > mostAfterwards) return;
    const el = event.composedPath()[0];
    if (!el || el.nodeType !== 1 || el.getRootNode() !== document) return;
    const typed = event.type !== 'click' && event.type !== 'keydown' && typeof el.value === 'string';
    if (event.type !== 'click' && event.type !== 'keydown' && (!typed || /^(?:checkbox|radio)$/.test(el.type))) return;
    if (event.type === 'keydown' && (event.key || '').length < 2) return;
    const record = {
      k: 'scripted',
      t: origin + event.timeStamp,
      e: event.type,
      d: describe(el),
      s: pathTo(el),
      u: location.href,
      n: origin,
      o: openedFromAround(),
      ...(active ? { a: true } : {}),
      ...(typed ? { v: isSecret(el) ? '«masked»' : cut(el.value, 400) } : {}),
      ...(event.type === 'keydown' ? { v: cut(event.key, 20) } : {}),
    };
    if (wanted) push(record);
    else if (early.length < mostEarly) early.push(record);
  };
  for (const type of ['click', 'input', 'change', 'keydown']) on(type, hear);
  return {
    wants: (yes) => {
      wanted = yes;
      for (const record of early.splice(0)) if (yes) push(record);
    },
  };
};
