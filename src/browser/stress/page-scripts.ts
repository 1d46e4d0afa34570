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
      case 'animations':
        return one.factor === 0 ? [`() => (${stopAnimations})()`] : [];
      default:
        return [];
    }
  });
}

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
