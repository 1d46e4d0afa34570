// Runs in an isolated script world of every document. It watches locators and tells what became of
// them; it never changes the page. One function expression, sent as text with those of the files beside it.
(written, heldValues, circumstances, pageLayout, near, scriptedEvents, secretFields) => {
  const origin = performance.timeOrigin;
  const now = () => origin + performance.now();
  const later = setTimeout;
  const frame = requestAnimationFrame;
  const flushEveryMs = 50;
  const burstEveryMs = 250;
  // Longest run of frames watched without a pause; endless spinners are looked at every 100 ms after it.
  const watchFramesMs = 2000;
  const most = { text: 90, attr: 120, attrs: 16, records: 5000 };

  let send = null;
  let out = [];
  // A flush is on its way; one that has something of what is watched to tell.
  let flushing = false;
  let telling = false;
  const watched = new Map();
  const numbers = new WeakMap();
  let nextNumber = 1;

  const push = (record) => {
    if (out.length < most.records) out.push(record);
    if (telling || !send) return;
    telling = true;
    flushing = true;
    later(flush, flushEveryMs);
  };
  // Told by itself: the page may be gone before anything is told with others.
  const tellNow = (record) => {
    if (send) send(JSON.stringify([record]));
    else push(record);
  };
  const flush = () => {
    flushing = false;
    telling = false;
    if (mutations.count) {
      out.push({ k: 'mutations', t: mutations.from, u: mutations.until, n: mutations.count });
      mutations.count = 0;
    }
    for (const line of watched.values()) settle(line, true);
    if (!send || out.length === 0) return;
    const batch = out;
    out = [];
    send(JSON.stringify(batch));
  };

  const cut = (text, length) => (text.length > length ? `${text.slice(0, length - 1)}…` : text);
  const clean = (text) => cut((text || '').slice(0, 2000).replace(/\s+/g, ' ').trim(), most.text);
  const numberOf = (node) => {
    let number = numbers.get(node);
    if (!number) numbers.set(node, (number = nextNumber++));
    return number;
  };
  const on = (type, listener) => addEventListener(type, listener, { capture: true, passive: true });
  const secrets = secretFields({ tell: (v, w) => tellNow({ k: 'secret', t: now(), v, w }), now, later, on });
  const { isSecret } = secrets;

  // What a person would call an element.
  const nameOf = (el) => {
    const label =
      el.getAttribute('aria-label') ||
      (el.labels && el.labels[0] && el.labels[0].textContent) ||
      el.getAttribute('alt');
    if (label && label.trim()) return clean(label);
    const pressable =
      /^(a|button|summary|option|label|li|h[1-6]|th|td|span|strong|em|p)$/.test(el.localName) ||
      el.hasAttribute('role');
    if (el.localName === 'input' && /^(submit|button|reset)$/.test(el.type)) return clean(el.value);
    const text = pressable ? clean(el.textContent) : '';
    return text && text.length <= 48 ? text : el.getAttribute('placeholder') || el.getAttribute('title') || '';
  };
  const describe = (el) => {
    const id = el.id ? `#${el.id}` : '';
    const classes =
      typeof el.className === 'string' && el.className.trim()
        ? `.${el.className.trim().split(/\s+/).slice(0, 2).join('.')}`
        : '';
    const name = nameOf(el);
    return `${el.localName}${id}${classes}${name ? ` “${cut(name, 40)}”` : ''}`;
  };

  const matches = (locator, root) => {
    const from = locator.within ? matches(locator.within, root)[locator.within.index || 0] : root;
    if (!from) return [];
    try {
      switch (locator.using) {
        case 'css selector':
          return from.querySelectorAll(locator.value);
        case 'tag name':
          return from.getElementsByTagName(locator.value);
        case 'xpath': {
          const found = document.evaluate(locator.value, from, null, 7, null);
          return Array.from({ length: found.snapshotLength }, (_, i) => found.snapshotItem(i));
        }
        case 'link text':
          return [...from.querySelectorAll('a')].filter((a) => a.textContent.trim() === locator.value.trim());
        case 'partial link text':
          return [...from.querySelectorAll('a')].filter((a) => a.textContent.includes(locator.value));
      }
    } catch {
      // a locator the page cannot read; the driver's own answer says so
    }
    return [];
  };

  // What can be known without making the page lay itself out.
  const identity = (line) => {
    const found = matches(line.locator, document);
    const el = found[line.locator.index || 0];
    if (!el || el.nodeType !== 1) return { el: null, state: { count: found.length, node: null } };
    const attrs = {};
    let left = most.attrs;
    for (const attr of el.attributes) {
      if (left-- <= 0) break;
      attrs[attr.name] = attr.name === 'value' && isSecret(el) ? '«masked»' : cut(attr.value, most.attr);
    }
    return {
      el,
      state: {
        count: found.length,
        node: numberOf(el),
        tag: el.localName,
        name: nameOf(el),
        text: clean(el.textContent),
        attrs,
        enabled: !el.disabled,
      },
    };
  };
  const round = (n) => Math.round(n * 10) / 10;
  const { framed, offset, layout, boxOf } = pageLayout({ round, describe });

  // A change waits for the next frame to learn its box, so that asking costs the page no extra layout.
  const settle = (line, withLayout) => {
    if (!line.pending) return;
    const { record, el } = line.pending;
    line.pending = null;
    if (withLayout && el) Object.assign(record.s, layout(el));
    else if (el && line.last && line.last.node === record.s.node) carry(record.s, line.last);
    line.last = record.s;
    push(record);
  };
  const carry = (state, last) => {
    state.box = last.box;
    state.visible = last.visible;
    state.inView = last.inView;
    state.coveredBy = last.coveredBy;
    if (framed) state.offset = last.offset;
  };
  const sameAttrs = (a, b) => {
    const keys = Object.keys(a);
    return keys.length === Object.keys(b).length && keys.every((key) => a[key] === b[key]);
  };
  const changesOf = (a, b) => {
    const changed = [];
    if (a.text !== b.text) changed.push('text');
    if (a.enabled !== b.enabled) changed.push('enabled');
    if (a.count !== b.count) changed.push('count');
    if (!sameAttrs(a.attrs || {}, b.attrs || {})) {
      const keys = new Set([...Object.keys(a.attrs || {}), ...Object.keys(b.attrs || {})]);
      for (const key of keys) if ((a.attrs || {})[key] !== (b.attrs || {})[key]) changed.push(key);
    }
    return changed;
  };
  const kindOf = (before, after) => {
    if (!before) return after.node === null ? 'absent' : 'appeared';
    if (before.node === null) return after.node === null ? null : 'appeared';
    if (after.node === null) return 'removed';
    if (before.node !== after.node) return 'replaced';
    return changesOf(before, after).length ? 'changed' : null;
  };

  const look = (line, t) => {
    const { el, state } = identity(line);
    const before = line.pending ? line.pending.record.s : line.last;
    const kind = kindOf(before, state);
    if (!kind) return;
    settle(line, false);
    const record = { k: 'element', t, e: kind, l: line.key, s: state };
    if (kind === 'changed') record.c = changesOf(before, state);
    if (el && isSecret(el)) record.h = true;
    line.pending = { record, el };
    line.el = el;
    if (el === null) settle(line, false);
    wakeFrames();
  };
  const lookAll = (t) => {
    for (const line of watched.values()) look(line, t);
  };
  const lookNear = (changes, t) => {
    for (const line of watched.values()) if (near.any(changes, line)) look(line, t);
  };

  const sameBox = (a, b) => a && a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;
  // Boxes, once a frame while anything may be moving; what lies over them less often, since that has to be searched.
  const searchEveryMs = 50;
  let searchedAt = 0;
  const measure = () => {
    const t = now();
    const search = t - searchedAt >= searchEveryMs;
    if (search) searchedAt = t;
    for (const line of watched.values()) {
      if (line.pending) {
        settle(line, true);
        continue;
      }
      if (!line.el || !line.last || line.last.node === null) continue;
      if (!search && sameBox(line.last.box, boxOf(line.el))) continue;
      const seen = layout(line.el);
      const was = line.last;
      const b = was.box;
      const moved =
        !sameBox(b, seen.box) ||
        (framed && (!was.offset || !seen.offset || was.offset.x !== seen.offset.x || was.offset.y !== seen.offset.y));
      const cover = was.coveredBy !== seen.coveredBy;
      if (!moved && !cover && was.visible === seen.visible) continue;
      const kind = cover
        ? seen.coveredBy
          ? 'covered'
          : 'uncovered'
        : was.visible !== seen.visible
          ? 'changed'
          : 'moved';
      const record = { k: 'element', t, e: kind, l: line.key, s: { ...was, ...seen } };
      if (kind === 'changed') record.c = ['visible'];
      line.last = record.s;
      push(record);
    }
  };
  let framesUntil = 0;
  let framing = false;
  let busySince = 0;
  const wakeFrames = () => {
    framesUntil = now() + 120;
    if (framing || !send || watched.size === 0) return;
    framing = true;
    busySince = now();
    frame(onFrame);
  };
  // Words that change may push things about, by a little.
  let measuring = false;
  const measureSoon = () => {
    if (measuring || framing || watched.size === 0) return;
    measuring = true;
    later(() => {
      measuring = false;
      if (!framing) frame(measure);
    }, 100);
  };
  const animated = () => document.getAnimations().some((a) => a.playState === 'running');
  // An animation that a script starts changes nothing else and tells nobody: it is looked for now and then.
  const beat = () => {
    secrets.look(false);
    if (!framing && animated()) wakeFrames();
    later(beat, 200);
  };
  const onFrame = () => {
    measure();
    const t = now();
    if (t > framesUntil && !animated()) {
      framing = false;
      return;
    }
    if (t - busySince > watchFramesMs) later(() => frame(onFrame), 100);
    else frame(onFrame);
  };

  // The page's structure as text, told when the page has come to rest, when a command fails, and at the end.
  const idle = globalThis.requestIdleCallback || ((work) => later(work, 30));
  const structure = {
    wanted: false,
    stale: true,
    pending: false,
    last: '',
    toldAt: 0,
    soon() {
      if (!structure.wanted || structure.pending) return;
      structure.pending = true;
      const wait = Math.max(restMs, structureGapMs - (now() - structure.toldAt));
      later(() => idle(structure.ifQuiet), wait);
    },
    ifQuiet() {
      structure.pending = false;
      if (mutations.until && now() - mutations.until < restMs) structure.soon();
      else if (document.getElementsByTagName('*').length <= mostIdleNodes) structure.tell();
    },
    tell() {
      if (!structure.wanted || !structure.stale || !document.documentElement) return;
      structure.stale = false;
      const t = now();
      structure.toldAt = t;
      secrets.look(true);
      const text = written({ isSecret, cut, round });
      if (text === structure.last) return;
      structure.last = text;
      push({ k: 'structure', t, x: text, u: location.href, n: document.getElementsByTagName('*').length });
    },
  };
  const restMs = 80;
  const structureGapMs = 700;
  // A larger page is written out only when a command failed or the attempt ends.
  const mostIdleNodes = 4000;
  const mutations = { count: 0, from: 0, until: 0 };
  new MutationObserver((list) => {
    const t = now();
    if (mutations.count === 0) mutations.from = t;
    mutations.until = t;
    mutations.count += list.length;
    secrets.look(false);
    lookNear(list, t);
    tellTitle();
    if (near.onlyText(list)) measureSoon();
    else wakeFrames();
    structure.stale = true;
    if (send) structure.soon();
    // Changes that concern nothing that is watched are told now and then.
    if (!flushing && send) {
      flushing = true;
      later(flush, burstEveryMs);
    }
  }).observe(document, { subtree: true, childList: true, attributes: true, characterData: true });

  let title = '';
  const tellTitle = () => {
    if (document.title === title) return;
    title = document.title;
    if (window.parent === window) push({ k: 'title', t: now(), x: title });
  };

  on('scroll', wakeFrames);
  // A frame is moved by the pages it stands in, of which it hears nothing by itself.
  if (framed) {
    try {
      for (let w = window; w !== w.parent; w = w.parent) {
        w.parent.addEventListener('scroll', wakeFrames, { capture: true, passive: true });
        w.parent.addEventListener('resize', wakeFrames, { passive: true });
      }
    } catch {
      // a page of another host does not let itself be listened to
    }
  }
  const tellView = () => {
    if (!framed) push({ k: 'view', t: now(), r: devicePixelRatio });
  };
  on('resize', () => {
    wakeFrames();
    if (send) tellView();
  });
  on('transitionrun', wakeFrames);
  on('animationstart', wakeFrames);
  on('load', () => {
    tellTitle();
    lookAll(now());
    wakeFrames();
  });
  on('pointerdown', (event) => {
    const el = event.composedPath()[0];
    if (!event.isTrusted || !el || el.nodeType !== 1) return;
    wakeFrames();
    held.look();
    const r = el.getBoundingClientRect();
    tellNow({
      k: 'press',
      t: origin + event.timeStamp,
      x: round(event.clientX),
      y: round(event.clientY),
      d: describe(el),
      b: { x: round(r.x), y: round(r.y), width: round(r.width), height: round(r.height) },
      ...(framed ? { f: offset() } : {}),
    });
  });
  on('focusin', (event) => {
    held.look();
    if (event.target && event.target.nodeType === 1)
      push({ k: 'focus', t: origin + event.timeStamp, d: describe(event.target) });
  });
  const held = heldValues({ now, push, latest: () => out[out.length - 1], describe, isSecret, cut });
  on('input', (event) => held.input(event.target, origin + event.timeStamp));
  const scripted = scriptedEvents({ on, origin, push, describe, isSecret, cut });
  on('pagehide', flush);
  try {
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries())
        push({ k: 'shift', t: origin + entry.startTime, n: Math.round(entry.value * 10000) / 10000 });
    }).observe({ type: 'layout-shift', buffered: true });
  } catch {
    // engines without layout-shift entries
  }

  const add = (key, locator) => {
    if (watched.has(key)) return;
    const line = { key, locator, last: null, pending: null, el: null, plan: near.plan(locator) };
    watched.set(key, line);
    look(line, now());
    wakeFrames();
  };

  globalThis.iskelObserver = {
    attach: (channel, locators, withStructure, withScripted) => {
      send = channel;
      scripted.wants(withScripted);
      structure.wanted = withStructure;
      secrets.look(true);
      tellView();
      structure.soon();
      later(beat, 200);
      for (const { key, locator } of JSON.parse(locators)) add(key, locator);
      push({ k: 'here', t: now(), x: location.href });
      if (top === self) push({ k: 'circumstances', t: now(), x: circumstances() });
      tellTitle();
    },
    watch: (text) => {
      const { key, locator } = JSON.parse(text);
      add(key, locator);
    },
    /** A command failed: what the page is made of right now. */
    structure: () => {
      structure.tell();
      flush();
    },
    /** Takes a last look and hands over everything at once. */
    flush: () => {
      secrets.look(true);
      lookAll(now());
      measure();
      held.look();
      structure.tell();
      flush();
    },
  };
};
