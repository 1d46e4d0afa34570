import { describe, expect, it } from 'vitest';
import type { DrillLocator } from '../drill/drill.ts';
import { printStatement } from '../drill/print.ts';
import type { MadeDrill } from '../drill/from-evidence.ts';
import { parseDrill } from '../drill/parse.ts';
import { element, page, press, reads, step, url } from '../evidence/samples.ts';
import { changed, waitUntil, type Change } from './change.ts';
import { advised, failed, opened, told, types } from './samples.ts';
import type { Told } from './told.ts';

/** Remedies for steps that reached something else than they were meant for. */

describe('one of several, where no page was written down', () => {
  const pressed = (
    text: string,
    href: string,
    make: typeof told = told,
    more: Parameters<typeof page>[2][] = [],
  ): Told =>
    make([
      ...opened(),
      ...more.map((data, i) => page(30 + i, 'structure', data)),
      element(40, 'appeared', 'css=.sailing a', { node: 1, tag: 'a', text, name: text, attrs: { href }, count: 5 }),
      press(100, '.sailing a'),
    ]);
  const passing = [pressed('Night sailing', '/sailings/7'), pressed('Night sailing', '/sailings/7')];

  it('it is the one by its words that passing attempts pressed, and says that it was not tried', () => {
    const subject = pressed('Early sailing', '/sailings/3', failed);
    const [first] = advised('loose-locator', subject, passing, { shows: [subject.evidence.steps.at(-1)!] });
    expect(first!.text).toContain('by its text: the link that reads “Night sailing”, not by “.sailing a”');
    expect(first!.because).toContain('in 2 of 2 passing attempts, and not what was used here');
    expect(first!.because).toContain('was not written down');
    expect(first!.failing).toBeNull();
    expect(first!.change!.change).toEqual({
      do: 'locate by',
      locator: { by: 'role', value: 'link', named: 'Night sailing' },
    });
  });

  it('is no locator that matches what was used here too', () => {
    const subject = pressed('Night sailing', '/sailings/7', failed);
    const list = advised('loose-locator', subject, passing, { shows: [subject.evidence.steps.at(-1)!] });
    expect(list.filter(({ kind }) => kind === 'locator')).toEqual([]);
  });

  it('is never what is read by what it should read', () => {
    const read = (value: string, make: typeof told = told): Told =>
      make([
        ...opened(),
        element(40, 'appeared', 'css=.sailing a', { node: 1, tag: 'a', text: value, name: value, count: 5 }),
        reads(100, value, '.sailing a'),
      ]);
    const subject = read('Early sailing', failed);
    const list = advised('brittle-locator', subject, [read('Night sailing')], {
      shows: [subject.evidence.steps.at(-1)!],
    });
    expect(list).toEqual([]);
  });

  it('does not take the page before, on which nothing of the kind stood, for the page it was used on', () => {
    const home = { address: `${url}/`, blob: 'home' };
    const markup = (): string => '<html><body><a href="/">Home</a></body></html>';
    const shown = { shows: [], markup };
    const subject = pressed('Early sailing', '/sailings/3', failed, [home]);
    const [first] = advised('loose-locator', subject, [pressed('Night sailing', '/sailings/7', told, [home])], {
      ...shown,
      shows: [subject.evidence.steps.at(-1)!],
    });
    expect(first!.because).toContain('was not written down');
  });
});

describe('one card among others', () => {
  const card = (name: string, price: string, more = ''): string =>
    `<article class="card wide"><h3>${name}</h3><p class="price">${price}</p><button>Book</button>${more}</article>`;
  const blobs: Record<string, string> = {
    night: `<main>${card('Night sailing', '12.00')}${card('Early sailing', '9.00')}</main>`,
    early: `<main>${card('Early sailing', '9.00')}${card('Night sailing', '12.00')}</main>`,
    twice: `<main>${card('Early sailing', '9.00')}${card('Night sailing', '12.00')}${card('Night sailing', '8.00')}</main>`,
    alone: `<main>${card('Early sailing', '9.00')}</main>`,
    nightFirst: `<main>${card('Night sailing', '12.00')}</main>`,
  };
  const pressed = (blob: string, make: typeof told = told): Told =>
    make([
      ...opened(),
      page(30, 'structure', { address: `${url}/hold`, blob }),
      element(40, 'appeared', 'css=.card button', { node: 1, tag: 'button', text: 'Book', name: 'Book', count: 2 }),
      press(100, '.card button'),
    ]);
  const scoped = (blob: string, passing: Told[]) => {
    const subject = pressed(blob, failed);
    const shows = [subject.evidence.steps.at(-1)!];
    return advised('loose-locator', subject, passing, { shows, markup: (one) => blobs[one] }).filter(
      ({ kind }) => kind === 'locator',
    );
  };

  it('is looked for by its name, and what was used inside it', () => {
    const [first] = scoped('early', [pressed('night'), pressed('night')]);
    expect(first!.text).toContain('inside the article that says “Night sailing”');
    expect(first!.because).toContain('in 2 of 2 passing attempts');
    expect(first!.change!.change).toMatchObject({ do: 'locate by', locator: { by: 'css', value: 'button' } });
    const { locator } = first!.change!.change as { locator: DrillLocator };
    expect(printStatement({ do: 'press', target: { locator } })).toBe(
      `press css "button" in xpath "//article[.//h3[normalize-space(.)='Night sailing']]"`,
    );
  });

  it('is looked for by its name where it was told by what it says', () => {
    const locator = { using: 'xpath', value: "//button[contains(text(),'Book')]" };
    const chosen = (blob: string, make: typeof told = told): Told =>
      make([
        ...opened(),
        page(30, 'structure', { address: `${url}/hold`, blob }),
        element(40, 'appeared', `xpath=${locator.value}`, { node: 1, tag: 'button', text: 'Book', count: 2 }),
        step(100, 110, { action: 'press', locator }),
      ]);
    const subject = chosen('early', failed);
    const shows = [subject.evidence.steps.at(-1)!];
    const list = advised('loose-locator', subject, [chosen('night')], { shows, markup: (one) => blobs[one] });
    expect(list.map(({ text }) => text)).toContainEqual(
      expect.stringContaining('inside the article that says “Night sailing”'),
    );
  });

  it('is known by its name too where a passing attempt was written down before the others were there', () => {
    const [first] = scoped('early', [pressed('nightFirst'), pressed('night')]);
    expect(first!.text).toContain('inside the article that says “Night sailing”');
    expect(scoped('early', [pressed('nightFirst')])).toHaveLength(1);
  });

  it('is not advised where the name is not here, is there twice, or was used here as well', () => {
    expect(scoped('alone', [pressed('night')])).toEqual([]);
    expect(scoped('twice', [pressed('night')])).toEqual([]);
    expect(scoped('night', [pressed('night')])).toEqual([]);
    // What passing attempts used has no one name.
    expect(scoped('early', [pressed('night'), pressed('early')])).toEqual([]);
  });
});

describe('a name that is counted up', () => {
  const table = (from: number, second = 'Lodos'): string =>
    `<table id="fleet"><tbody><tr id="boat-${from}"><td>Poyraz</td></tr><tr id="boat-${from + 1}"><td>${second}</td></tr></tbody></table>`;
  const blobs: Record<string, string> = { first: table(1), later: table(38), other: table(38, 'Karayel') };
  const reading = (blob: string, found: boolean, make: typeof told = told): Told =>
    make([
      ...opened(),
      page(30, 'structure', { address: `${url}/hold`, blob }),
      ...(found ? [element(40, 'appeared', 'css=#boat-2 td', { node: 1, tag: 'td', text: 'Lodos' })] : []),
      reads(
        100,
        found ? 'Lodos' : '',
        '#boat-2 td',
        found ? {} : { error: { code: 'no such element', message: 'no' } },
      ),
    ]);
  const placed = (blob: string) => {
    const subject = reading(blob, false, failed);
    const shows = [subject.evidence.steps.at(-1)!];
    const passing = [reading('first', true), reading('first', true)];
    return advised('brittle-locator', subject, passing, { shows, markup: (one) => blobs[one] });
  };

  it('gives way to the place in what has a lasting one, where the same stands there', () => {
    const [first] = placed('later');
    expect(first!.text).toContain('by its place, “#fleet > tbody > tr:nth-of-type(2) > td”, not by “#boat-2 td”');
    expect(first!.because).toContain('in 2 of 2 passing attempts');
  });

  it('is left where something else stands there', () => {
    expect(placed('other')).toEqual([]);
  });
});

describe('what lies over the target', () => {
  const html = `<main><button id="pay">Pay</button></main><aside class="offer"><p>Half fares!</p><button class="x-close">×</button></aside><aside class="bare"><p>News</p></aside><div class="sheet" role="dialog"><p>Fog</p><button>Understood</button></div><div class="order" role="dialog"><button>Pay twice</button><button>Back</button></div>`;
  const pressed = (coveredBy: string | null, make: typeof told = told): Told =>
    make([
      ...opened(),
      page(30, 'structure', { address: `${url}/hold`, blob: 'page' }),
      element(40, 'appeared', 'css=#pay', { node: 1, tag: 'button', text: 'Pay', name: 'Pay', coveredBy }),
      press(100, '#pay'),
    ]);
  const away = (cover: string) => {
    const subject = pressed(cover, failed);
    const shows = [subject.evidence.steps.at(-1)!];
    return advised('covered-target', subject, [pressed(null)], { shows, markup: () => html }).filter(
      ({ kind }) => kind === 'step',
    );
  };

  it('is put away by what it has for that, where it is there', () => {
    for (const cover of ['aside.offer', 'aside.offer p']) {
      const [first] = away(cover);
      expect(first!.text).toContain('away by “×”, where it is there');
      const { statements } = first!.change!.change as Extract<Change, { do: 'put before' }>;
      expect(statements.map(printStatement)[0]).toBe(
        'when css "button.x-close" is there then press css "button.x-close"',
      );
    }
  });

  it('is put away by the one thing that a notice has to press, and by none of several', () => {
    const { statements } = away('div.sheet')[0]!.change!.change as Extract<Change, { do: 'put before' }>;
    expect(statements.map(printStatement)[0]).toBe(
      'when css "div.sheet button" is there then press css "div.sheet button"',
    );
    expect(away('div.order')).toEqual([]);
  });

  it('is known by what the browser named when it would not press', () => {
    const other = 'Other element would receive the click: <div class="sheet" role="dialog">...</div>';
    const error = { code: 'element click intercepted', message: `element click intercepted: ${other}` };
    const refused = failed([
      ...opened(),
      page(30, 'structure', { address: `${url}/hold`, blob: 'page' }),
      step(100, 110, { action: 'press', locator: { using: 'css selector', value: '#pay' }, error }),
    ]);
    const shows = [refused.evidence.steps.at(-1)!];
    const [first] = advised('covered-target', refused, [pressed(null)], { shows, markup: () => html });
    expect(first!.text).toContain('put “div.sheet” away by “Understood”');
  });

  it('is left where it has none', () => {
    expect(away('aside.bare')).toEqual([]);
    expect(away('div.elsewhere')).toEqual([]);
  });
});

describe('a wait before a place that was measured', () => {
  const drill = (body: string): MadeDrill => {
    const parsed = parseDrill(`drill "x"\n\n${body}`);
    if (!parsed.drill) throw new Error(JSON.stringify(parsed.errors));
    return {
      drill: parsed.drill,
      origins: parsed.drill.lines.map((_, i) => [`e${i}`]),
      remarks: [],
    } as unknown as MadeDrill;
  };
  const put = (body: string, at: number): string[] =>
    changed(drill(body), {
      at: [`e${at}`],
      change: { do: 'put before', statements: [waitUntil({ kind: 'quiet', forMs: 100 })], insteadOfPause: true },
    })!.map(({ do: what }) => what);

  it('stands before it is measured, instead of the pause before that', () => {
    const body = `open "http://lodos.example/"
pause 300 ms
wait until css ".row" is there up to 5 s every 100 ms
remember the-place = place of css ".row button"
click the-place.x + 3, the-place.y + 4 over 900 ms`;
    expect(put(body, 4)).toEqual(['open', 'wait', 'wait', 'remember place', 'click']);
  });

  it('stands right before the step where what was remembered is not used, or something was done since', () => {
    const other = `remember other = text of css "h1"\npress css "#go"`;
    expect(put(other, 1)).toEqual(['remember', 'wait', 'press']);
    const acted = `remember the-place = place of css "#go"\npress css "#more"\nclick the-place.x, the-place.y`;
    expect(put(acted, 2)).toEqual(['remember place', 'press', 'wait', 'click']);
  });
});

describe('a step that was taken only where something was there', () => {
  it('is not taken twice once it is taken in any case', () => {
    const text = `drill "x"\n\nwhen css "#all" is there then press css "#all"\npause 40 ms\npress css "#book"`;
    const { drill } = parseDrill(text);
    const target = { locator: { by: 'css', value: '#all' } };
    const out = changed(
      { drill: drill!, origins: [[], [], ['e1']], remarks: [] },
      {
        at: ['e1'],
        change: { do: 'put before', statements: [waitUntil({ kind: 'there', target }), { do: 'press', target }] },
      },
    );
    expect(out!.map(({ do: what }) => what)).toEqual(['pause', 'wait', 'press', 'press']);
  });
});

describe('keys', () => {
  const body = JSON.stringify({
    actions: [{ type: 'key', actions: [...'Ada'].map((value) => ({ type: 'keyDown', value })) }],
  });
  const keyed = (at: number) => step(at, at + 10, { action: 'keys', command: 'perform actions', input: body });

  it('have their field pressed right before them, and it is told when the focus went on', () => {
    const subject = failed([
      ...opened(),
      press(100, '#passenger'),
      page(900, 'focus', { label: 'textarea' }),
      keyed(1400),
    ]);
    const [first] = advised('lost-input', subject, [], { shows: [subject.evidence.steps.at(-1)!] });
    expect(first!.text).toMatch(/^Do Press on “#passenger” again right before /);
    expect(first!.because).toMatch(/before the keys; 500 ms before them the focus went on by itself$/);
    expect(first!.change!.change).toMatchObject({ do: 'put before', statements: [{ do: 'press' }] });
  });

  it('that follow other keys are left alone, and so is typing into an element', () => {
    const tabbed = failed([...opened(), press(100, '#passenger'), keyed(400), keyed(900)]);
    const typed = failed([...opened(), press(100, '#passenger'), types(200, 'Ada', '#passenger')]);
    for (const subject of [tabbed, typed])
      expect(
        advised('lost-input', subject, [], { shows: [subject.evidence.steps.at(-1)!] }).map(({ text }) => text),
      ).not.toContainEqual(expect.stringMatching(/^Do Press/));
  });
});
