import { literal } from '../../core/patterns/literal.ts';
import type { Stressor } from '../../core/trials/stressor.ts';

/** What is put into every document before its own scripts, as the text of a function without arguments. */
export function pageScripts(stressors: readonly Stressor[]): string[] {
  return stressors.flatMap((one): string[] => {
    switch (one.kind) {
      case 'clock':
        return [`() => (${shiftClock})(${one.shiftMs}, ${one.standing === true})`];
      case 'random':
        return [`() => (${seedRandom})(${one.seed})`];
      case 'timers':
        return [`() => (${stretchTimers})(${one.factor})`];
      case 'late-body':
        return [`() => (${lateBodies})(${JSON.stringify(patternSource(one.request))}, ${one.ms})`];
      case 'animations':
        return one.factor === 0 ? [`() => (${stopAnimations})()`] : [];
      default:
        return [];
    }
  });
}

/** A pattern of requests as a regular expression. */
const patternSource = (pattern: string): string => `^${literal(pattern).replaceAll('\\*', '.*')}$`;

/** Readers of answers get what they read so much later; an XMLHttpRequest tells so much later that it is there. */
const lateBodies = `(source, ms) => {
  const wanted = new RegExp(source);
  // As keyOfRequest() tells a request.
  const fits = (method, address) => {
    const url = new URL(address, location.href);
    const path = url.pathname.split('/').map((part) => (/\\d{2,}|^\\d+$|[0-9a-f]{8,}/i.test(part) ? '#' : part)).join('/');
    return wanted.test(method.toUpperCase() + ' ' + (url.host === location.host ? '' : url.hostname + ' ') + path);
  };
  const later = (value) => new Promise((done) => setTimeout(() => done(value), ms));
  const methods = new WeakMap();
  const realFetch = globalThis.fetch;
  globalThis.fetch = function (asked, options) {
    const method = (options && options.method) || (asked && asked.method) || 'GET';
    return realFetch.apply(this, arguments).then((answer) => (methods.set(answer, method), answer));
  };
  for (const name of ['json', 'text', 'arrayBuffer', 'blob', 'formData', 'bytes']) {
    const real = Response.prototype[name];
    if (!real) continue;
    Response.prototype[name] = function () {
      const read = real.apply(this, arguments);
      return fits(methods.get(this) || 'GET', this.url) ? read.then(later) : read;
    };
  }
  const realOpen = XMLHttpRequest.prototype.open;
  XMLHttpRequest.prototype.open = function (method, address) {
    if (fits(method, String(address))) {
      const passed = new WeakSet();
      const hold = (event) => {
        if (passed.has(event) || (event.type === 'readystatechange' && this.readyState < 3)) return;
        event.stopImmediatePropagation();
        const again = event instanceof ProgressEvent
          ? new ProgressEvent(event.type, { lengthComputable: event.lengthComputable, loaded: event.loaded, total: event.total })
          : new Event(event.type);
        passed.add(again);
        setTimeout(() => this.dispatchEvent(again), ms);
      };
      for (const type of ['readystatechange', 'progress', 'load', 'loadend']) this.addEventListener(type, hold, true);
    }
    return realOpen.apply(this, arguments);
  };
}`;

const shiftClock = `(shift, standing) => {
  const Real = Date;
  const begun = Real.now();
  const now = () => (standing ? begun : Real.now()) + shift;
  const Shifted = function Date(...given) {
    if (!new.target) return new Real(now()).toString();
    return Reflect.construct(Real, given.length ? given : [now()], new.target === Shifted ? Real : new.target);
  };
  Shifted.prototype = Real.prototype;
  Object.setPrototypeOf(Shifted, Real);
  Shifted.now = now;
  Real.prototype.constructor = Shifted;
  globalThis.Date = Shifted;
}`;

const seedRandom = `(seed) => {
  let state = seed >>> 0;
  Math.random = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}`;

const stretchTimers = `(factor) => {
  for (const name of ['setTimeout', 'setInterval']) {
    const real = globalThis[name];
    globalThis[name] = function (work, delay, ...given) {
      return real.call(this === undefined ? globalThis : this, work, (Number(delay) || 0) * factor, ...given);
    };
  }
}`;

const stopAnimations = `() => {
  const still = () => {
    const style = document.createElement('style');
    style.textContent = '*, *::before, *::after { animation: none !important; transition: none !important; }';
    (document.head || document.documentElement).append(style);
  };
  if (document.documentElement) still();
  else document.addEventListener('readystatechange', still, { once: true });
}`;
