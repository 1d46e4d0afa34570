// What a page finds itself in, told once: a function expression of its own, without arguments.
// Of cookies and storage the names are told, never what they hold.
(() => {
  const names = (read) => {
    try {
      return read()
        .slice(0, 60)
        .map((name) => String(name).slice(0, 120));
    } catch {
      return undefined;
    }
  };
  return () => {
    const { timeZone, locale } = Intl.DateTimeFormat().resolvedOptions();
    return {
      zone: timeZone,
      locale: navigator.language || locale,
      date: Date.now(),
      zoneMinutes: -new Date().getTimezoneOffset(),
      window: [innerWidth, innerHeight],
      screen: [screen.width, screen.height],
      ratio: devicePixelRatio,
      agent: navigator.userAgent,
      cores: navigator.hardwareConcurrency,
      reducedMotion: matchMedia('(prefers-reduced-motion: reduce)').matches,
      cookies: names(() =>
        document.cookie
          .split('; ')
          .filter(Boolean)
          .map((one) => one.split('=')[0]),
      ),
      local: names(() => Object.keys(localStorage)),
      session: names(() => Object.keys(sessionStorage)),
    };
  };
})();
