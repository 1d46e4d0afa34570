// What the classic protocol asks of an element, as functions of the page. Evaluated in a world of their own.
(() => {
  /** Part of the document that is looked at; one of a document that was left is stale, wherever it is kept. */
  const here = (node) => Boolean(node) && node.isConnected && node.ownerDocument === document;
  const displayed = (el) => {
    if (el.nodeType !== 1) return false;
    const tag = el.localName;
    if (tag === 'body' || tag === 'html') return true;
    if (tag === 'option' || tag === 'optgroup') {
      const select = el.closest('select');
      return select ? displayed(select) : false;
    }
    if (tag === 'input' && el.type === 'hidden') return false;
    if (tag === 'noscript') return false;
    if (!el.checkVisibility({ opacityProperty: true, visibilityProperty: true, contentVisibilityAuto: true }))
      return false;
    const has = (node) => {
      for (const rect of node.getClientRects()) if (rect.width > 0 && rect.height > 0) return true;
      if (getComputedStyle(node).overflow === 'hidden' && (node.clientWidth === 0 || node.clientHeight === 0))
        return false;
      for (const child of node.childNodes) {
        if (child.nodeType === 1 && getComputedStyle(child).visibility === 'visible' && has(child)) return true;
        if (child.nodeType === 3 && child.data.trim()) {
          const range = document.createRange();
          range.selectNodeContents(child);
          for (const rect of range.getClientRects()) if (rect.width > 0 && rect.height > 0) return true;
        }
      }
      return false;
    };
    return has(el);
  };
  const plain = (text) =>
    text
      .replace(/\u00a0/g, ' ')
      .split('\n')
      .map((line) => line.replace(/[ \t]+/g, ' ').trim())
      .join('\n')
      .replace(/\n{3,}/g, '\n\n')
      .trim();
  const text = (el) => {
    if (el.localName === 'title' || el.namespaceURI !== 'http://www.w3.org/1999/xhtml') return plain(el.textContent);
    if (el.localName === 'option') return plain(el.textContent);
    return displayed(el) || has_rendered(el) ? plain(el.innerText ?? '') : '';
  };
  const has_rendered = (el) => el.checkVisibility();
  const booleans = new Set(
    'allowfullscreen async autofocus autoplay checked compact controls declare default defer disabled formnovalidate hidden inert ismap itemscope loop multiple muted nomodule noresize noshade novalidate nowrap open readonly required reversed selected seamless truespeed willvalidate'.split(
      ' ',
    ),
  );
  const attribute = (el, name) => {
    if (booleans.has(name.toLowerCase())) return el.hasAttribute(name) ? 'true' : null;
    return el.getAttribute(name);
  };
  const enabled = (el) => {
    if (/^(button|input|select|textarea|option|optgroup|fieldset)$/.test(el.localName)) return !el.matches(':disabled');
    return true;
  };
  const selected = (el) =>
    el.localName === 'option' ? el.selected : /^(checkbox|radio)$/.test(el.type) ? el.checked : false;
  const rect = (el) => {
    const { left, top, width, height } = el.getBoundingClientRect();
    return { x: left + scrollX, y: top + scrollY, width, height };
  };
  const named = (el) => {
    if (!el) return 'nothing';
    const { id } = el;
    const classes = typeof el.className === 'string' && el.className ? ` class="${el.className}"` : '';
    return `<${el.localName}${id ? ` id="${id}"` : ''}${classes}>`;
  };
  const inView = (el) => {
    const box = [...el.getClientRects()].find(({ width, height }) => width > 0 && height > 0);
    if (!box) return undefined;
    const left = Math.max(0, Math.min(box.left, box.right));
    const right = Math.min(innerWidth, Math.max(box.left, box.right));
    const top = Math.max(0, Math.min(box.top, box.bottom));
    const bottom = Math.min(innerHeight, Math.max(box.top, box.bottom));
    return { x: Math.floor((left + right) / 2), y: Math.floor((top + bottom) / 2), seen: right > left && bottom > top };
  };
  /** What a press needs to know: `file`, `option`, `hidden`, `covered` by what, or the point. */
  const press = (el) => {
    if (el.localName === 'input' && el.type === 'file') return { file: true };
    const target = el.localName === 'option' || el.localName === 'optgroup' ? (el.closest('select') ?? el) : el;
    let at = inView(target);
    if (!at?.seen) {
      target.scrollIntoView({ behavior: 'instant', block: 'end', inline: 'nearest' });
      at = inView(target);
    }
    if (!at || !at.seen) return { hidden: true, who: named(el) };
    if (el.localName === 'option') return { option: true };
    const root = target.getRootNode();
    const paint = root.elementsFromPoint(at.x, at.y);
    const top = paint.find((one) => getComputedStyle(one).pointerEvents !== 'none') ?? paint[0];
    const reaches = (node) => {
      for (let n = node; n; n = n.parentNode ?? n.host) if (n === target) return true;
      return false;
    };
    if (!reaches(top)) return { covered: named(top), who: named(el), ...at };
    return at;
  };
  const choose = (el) => {
    const select = el.closest('select');
    const fire = (target, kind, Kind = Event) =>
      target.dispatchEvent(new Kind(kind, { bubbles: true, cancelable: true, composed: true }));
    const parent = select ?? el;
    for (const kind of ['mouseover', 'mousemove', 'mousedown']) fire(parent, kind, MouseEvent);
    parent.focus();
    if (!el.disabled) {
      const before = el.selected;
      if (select?.multiple) el.selected = !el.selected;
      else el.selected = true;
      fire(parent, 'input');
      if (before !== el.selected || !select?.multiple) fire(parent, 'change');
    }
    for (const kind of ['mouseup', 'click']) fire(parent, kind, MouseEvent);
  };
  const typedByValue = /^(color|date|datetime-local|month|range|time|week)$/;
  /** Makes a field ready for keys; says what else has to be done where keys do not do. */
  const ready = (el, value) => {
    if (el.localName === 'input' && el.type === 'file') return { file: true, multiple: el.multiple };
    if (!displayed(el) && el !== document.body && el !== document.documentElement) {
      el.scrollIntoView({ behavior: 'instant', block: 'end', inline: 'nearest' });
      if (!displayed(el)) return { hidden: true, who: named(el) };
    }
    const before = document.activeElement;
    if (before !== el) el.focus();
    if (
      document.activeElement !== el &&
      el.getRootNode().activeElement !== el &&
      el !== document.body &&
      !el.isContentEditable
    )
      return { hidden: true, who: named(el) };
    if (el.localName === 'input' && typedByValue.test(el.type)) {
      if (el.readOnly) return { hidden: true, who: named(el) };
      el.value = value;
      el.dispatchEvent(new Event('input', { bubbles: true }));
      el.dispatchEvent(new Event('change', { bubbles: true }));
      return { done: true };
    }
    if (before !== el) {
      if (typeof el.setSelectionRange === 'function') {
        try {
          el.setSelectionRange(el.value.length, el.value.length);
        } catch {
          // fields without a caret
        }
      } else if (el.isContentEditable) {
        getSelection().selectAllChildren(el);
        getSelection().collapseToEnd();
      }
    }
    return {};
  };
  const clear = (el) => {
    const field = /^(input|textarea|select|output)$/.test(el.localName);
    if (!(field && !/^(button|submit|reset|image|hidden|checkbox|radio)$/.test(el.type)) && !el.isContentEditable)
      return { state: `${named(el)} cannot be cleared` };
    if (field && (el.readOnly || el.matches(':disabled'))) return { state: `${named(el)} cannot be written to` };
    el.scrollIntoView({ behavior: 'instant', block: 'end', inline: 'nearest' });
    if (!displayed(el)) return { hidden: true, who: named(el) };
    el.focus();
    if (el.isContentEditable) el.innerHTML = '';
    else if (el.value !== '' || el.files?.length) {
      el.value = '';
      el.dispatchEvent(new Event('input', { bubbles: true }));
      el.dispatchEvent(new Event('change', { bubbles: true }));
    }
    el.blur();
    return {};
  };
  const roles = {
    a: (el) => (el.hasAttribute('href') ? 'link' : 'generic'),
    article: 'article',
    aside: 'complementary',
    button: 'button',
    dialog: 'dialog',
    div: 'generic',
    fieldset: 'group',
    figure: 'figure',
    footer: 'contentinfo',
    form: 'form',
    h1: 'heading',
    h2: 'heading',
    h3: 'heading',
    h4: 'heading',
    h5: 'heading',
    h6: 'heading',
    header: 'banner',
    hr: 'separator',
    iframe: 'Iframe',
    li: 'listitem',
    main: 'main',
    meter: 'meter',
    nav: 'navigation',
    ol: 'list',
    option: 'option',
    output: 'status',
    p: 'paragraph',
    progress: 'progressbar',
    section: (el) => (label(el) ? 'region' : 'generic'),
    span: 'generic',
    summary: 'DisclosureTriangle',
    table: 'table',
    tbody: 'rowgroup',
    td: 'cell',
    textarea: 'textbox',
    tfoot: 'rowgroup',
    th: 'columnheader',
    thead: 'rowgroup',
    tr: 'row',
    ul: 'list',
    img: (el) => (el.getAttribute('alt') === '' ? 'presentation' : 'image'),
    select: (el) => (el.multiple || el.size > 1 ? 'listbox' : 'combobox'),
    input: (el) =>
      ({
        button: 'button',
        submit: 'button',
        reset: 'button',
        image: 'button',
        checkbox: 'checkbox',
        radio: 'radio',
        range: 'slider',
        number: 'spinbutton',
        search: 'searchbox',
        hidden: 'none',
      })[el.type] ?? 'textbox',
  };
  const role = (el) => {
    const told = el.getAttribute('role')?.trim().split(/\s+/)[0];
    if (told) return told;
    const known = roles[el.localName];
    return typeof known === 'function' ? known(el) : (known ?? 'generic');
  };
  const byContent =
    /^(button|cell|checkbox|columnheader|heading|link|menuitem|option|radio|row|switch|tab|tooltip|treeitem|DisclosureTriangle)$/;
  function label(el) {
    const by = (el.getAttribute('aria-labelledby') ?? '').split(/\s+/).filter(Boolean);
    const named = by
      .map((id) => document.getElementById(id)?.textContent.trim() ?? '')
      .join(' ')
      .trim();
    if (named) return named;
    const aria = el.getAttribute('aria-label')?.trim();
    if (aria) return aria;
    if (el.labels?.length) return plain([...el.labels].map((one) => one.innerText).join(' '));
    if (el.hasAttribute('alt')) return el.getAttribute('alt');
    if (el.localName === 'input' && /^(button|submit|reset)$/.test(el.type) && el.value) return el.value;
    if (el.localName === 'fieldset') return plain(el.querySelector('legend')?.textContent ?? '');
    if (el.localName === 'table') return plain(el.querySelector('caption')?.textContent ?? '');
    if (el.localName !== 'section' && byContent.test(role(el))) return plain(el.innerText ?? el.textContent);
    return el.getAttribute('title') ?? el.getAttribute('placeholder') ?? '';
  }
  const find = (using, value, root) => {
    const from = root ?? document;
    switch (using) {
      case 'css selector':
        return [...from.querySelectorAll(value)];
      case 'tag name':
        return [
          ...(from.getElementsByTagName ? from.getElementsByTagName(value) : from.querySelectorAll(CSS.escape(value))),
        ];
      case 'link text':
        return [...from.querySelectorAll('a')].filter((one) => text(one) === value.trim());
      case 'partial link text':
        return [...from.querySelectorAll('a')].filter((one) => text(one).includes(value));
      default: {
        const found = document.evaluate(value, from, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
        return Array.from({ length: found.snapshotLength }, (_, i) => found.snapshotItem(i));
      }
    }
  };
  return {
    here,
    displayed,
    text,
    attribute,
    enabled,
    selected,
    rect,
    press,
    choose,
    ready,
    clear,
    role,
    label,
    find,
    inView,
  };
})();
