import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type {
  Argument,
  Condition,
  Draw,
  DrillLocator,
  Place,
  Remembered,
  Statement,
  Subject,
  Target,
  Value,
} from './drill.ts';
import { comparisons, strategies } from './drill.ts';
import { parseDrill } from './parse.ts';
import { printDrill } from './print.ts';

describe('reading', () => {
  it('reads every statement', () => {
    const { drill, errors } = parseDrill(
      `drill "all of it"
window 1280 x 800
implicit 2 s
limit page load 20 s
limit script 500 ms
seed 7
group "signs in"   # a remark
note "made up"
draw passenger = name
draw code = letters 4
draw day = number 1 to 28
draw fare = one of "adult", "child"
open "http://127.0.0.1/?day=" + day
find hold = css "#hold" match 2 in xpath "//main"
find save = role "button" named "Save " + code in css "form"
press hold
click twice save offset 4, -3
remember box = place of hold
remember answer = script "return [1, {a: arguments[0]}]" with hold, 3, "x" + code
click box.x + 12, box.y + -4
hover label "Name"
drag hold to 40, 50
drag hold by 10, -20
scroll to shown "Fares"
scroll by 0, 300
keys "“Ada”, Control+A, Arrow down ×5, Enter"
choose "Adult" in label "Fare"
type passenger into test id "passenger"
type "O’Rourke \\"x\\"" into css "#name"
type secret "passenger" into css "#code"
clear hold
remember fare = text of css ".fare"
read attribute "href" of link "Go to checkout"
check title is "Ferry"
check text of hold matches "^\\\\d+$"
check count of css "li" is at least 5
check css ".error" is gone
check answer of script "return 1" is answer.1.a
check either dialog contains "sold" or text of hold does not contain fare
wait until css "#a" is there
wait until text of css ".fare" is not "…" up to 3 s every 60 ms
wait until script "return ready" answers up to 500 ms
wait until request "GET /api/fares" is answered
wait until console says "ready"
wait until all is quiet for 200 ms
wait until hold is still
wait until either css "#a" is gone or count of windows-shown is 2
pause 250 ms
when css "#a" is there then press css "#a"
script "return 1"
new tab
switch to window 2
switch to newest window
switch to window at "/pass"
switch to frame top
switch to frame 1
accept dialog with "yes"
dismiss dialog
cookie "lang" is "tr"
forget cookie "lang"
forget cookies
back
reload
screenshot
close window`.replace('count of windows-shown is 2', 'windows is "2"'),
    );
    expect(errors).toEqual([]);
    expect(drill!.title).toBe('all of it');
    expect(drill!.lines).toHaveLength(64);
    expect(drill!.lines.find(({ line }) => line === 14)).toMatchObject({
      do: 'find',
      locator: { by: 'css', value: '#hold', match: 2, within: { locator: { by: 'xpath' } } },
    });
    expect(drill!.lines.find(({ line }) => line === 20)).toEqual({
      do: 'click',
      line: 20,
      at: { x: { of: { name: 'box', path: ['x'] }, plus: 12 }, y: { of: { name: 'box', path: ['y'] }, plus: -4 } },
    });
    expect(drill!.lines.find((one) => one.do === 'wait')).toMatchObject({ limitMs: 5000, everyMs: 100 });
    expect(parseDrill(printDrill(drill!)).errors).toEqual([]);
  });

  it.each([
    ['fly away', 1, 1, /no statement/],
    ['"open" "x"', 1, 1, /no statement/],
    ['press hold', 1, 7, /nothing was found as “hold”/],
    ['press', 1, 6, /expected an element/],
    ['press "hold"', 1, 7, /expected an element/],
    ['press css', 1, 10, /the locator in double quotes/],
    ['press css #a', 1, 10, /the locator in double quotes/],
    ['press partial "x"', 1, 7, /nothing was found as “partial”/],
    ['open http', 1, 6, /nothing was remembered as “http”/],
    ['open', 1, 5, /the address in double quotes/],
    ['open 5', 1, 6, /in double quotes/],
    ['open "http', 1, 6, /closing quote/],
    ['open "a" "b"', 1, 10, /more than this statement takes/],
    ['open "a" +', 1, 11, /another text or remembered value/],
    ['open "\\q"', 1, 6, /JSON string/],
    ['open ~', 1, 6, /no meaning here/],
    ['pause', 1, 6, /a duration, a number/],
    ['pause 5', 1, 8, /unit/],
    ['pause 5 min', 1, 9, /unit/],
    ['pause -5 ms', 1, 7, /never below nothing/],
    ['pause "5 ms"', 1, 7, /a duration, a number/],
    ['window 800', 1, 11, /expected “x”/],
    ['window 0 x 600', 1, 8, /counted from 1/],
    ['window 800.5 x 600', 1, 8, /whole number/],
    ['window wide', 1, 8, /the width/],
    ['implicit soon', 1, 10, /a duration/],
    ['limit page 5 s', 1, 7, /expected “page load”/],
    ['limit 5 s', 1, 7, /expected “page load”/],
    ['seed "x"', 1, 6, /the seed/],
    ['seed -1', 1, 6, /counted from 0/],
    ['group signs in', 1, 7, /what this part does in double quotes/],
    ['note', 1, 5, /the note in double quotes/],
    ['back now', 1, 6, /more than this statement takes/],
    ['forward 2', 1, 9, /more than this statement takes/],
    ['find = css "#a"', 1, 6, /expected a name/],
    ['find a css "#a"', 1, 8, /expected “=”/],
    ['find a = "#a"', 1, 10, /expected a locator here: css/],
    ['find a = css "#a" match 0', 1, 25, /counted from 1/],
    ['find a = css "#a" match 1.5', 1, 25, /whole number/],
    ['find a = css "#a" in', 1, 21, /expected an element/],
    ['find a = css "#a" named "x"', 1, 19, /more than this statement takes/],
    ['find a = css "#a" in b', 1, 22, /nothing was found as “b”/],
    ['remember a', 1, 11, /expected “=”/],
    ['remember a = 5', 1, 14, /expected what to read/],
    ['remember a = place css "#a"', 1, 20, /expected “of”/],
    ['remember a = text css "#a"', 1, 19, /expected “of”/],
    ['remember a = script', 1, 20, /the script in double quotes/],
    ['draw a = colour', 1, 10, /expected “one of”/],
    ['draw a = letters', 1, 17, /how many/],
    ['draw a = digits 0', 1, 17, /counted from 1/],
    ['draw a = digits 5000', 1, 17, /at most 200/],
    ['draw a = number 5 to 1', 1, 22, /the highest comes after/],
    ['draw a = number 5', 1, 18, /expected “to”/],
    ['draw a = one of', 1, 16, /a text in double quotes/],
    ['click', 1, 6, /expected an element/],
    ['click 5', 1, 8, /expected “,”/],
    ['click 5, x', 1, 10, /nothing was remembered as “x”/],
    ['click css "#a" offset 5', 1, 24, /expected “,”/],
    ['drag css "#a"', 1, 14, /expected “by”/],
    ['drag css "#a" by 5', 1, 19, /expected “,”/],
    ['scroll css "#a"', 1, 8, /expected “by”/],
    ['keys Enter', 1, 6, /the keys, by name/],
    ['keys "Entr"', 1, 6, /“Entr” is no key/],
    ['keys "A+Control"', 1, 6, /only Shift, Control, Alt and Meta are held/],
    ['keys ""', 1, 6, /no keys are named/],
    ['keys "Enter ×5000"', 1, 6, /at most 1000 times/],
    ['choose "x"', 1, 11, /expected “in”/],
    ['type "x"', 1, 9, /expected “into”/],
    ['type secret into css "#a"', 1, 13, /the name of the secret/],
    ['actions "{"', 1, 9, /JSON/],
    ['read colour of css "#a"', 1, 6, /expected what to read/],
    ['read attribute of css "#a"', 1, 16, /which attribute/],
    ['check title', 1, 12, /expected a comparison here/],
    ['check title is', 1, 15, /a value in double quotes/],
    ['check title matches "("', 1, 21, /cannot be read/],
    ['check title matches "(a)\\\\1"', 1, 21, /cannot be read/],
    ['check title is at least "many"', 1, 25, /“many” is no number/],
    ['check css "#a"', 1, 15, /expected “is there”, “is gone” or “is still”/],
    ['check css "#a" is still', 1, 7, /write “wait until”/],
    ['check all is quiet for 1 s', 1, 7, /write “wait until”/],
    ['check either title is "a"', 1, 26, /has another end/],
    ['check request is answered', 1, 15, /its method and address/],
    ['wait css "#a" is there', 1, 6, /expected “until”/],
    ['wait until css "#a" is there up 5 s', 1, 30, /more than this statement takes/],
    ['wait until css "#a" is there up to soon', 1, 36, /a duration/],
    ['wait until all is quiet', 1, 24, /expected “for”/],
    ['wait until console says ready', 1, 25, /what it says/],
    ['wait until script "x"', 1, 22, /expected “is|expected “answers”/],
    ['when css "#a" is there', 1, 23, /expected “then”/],
    ['when css "#a" is there then', 1, 28, /gives no name/],
    ['when css "#a" is there then find b = css "b"', 1, 29, /gives no name/],
    ['when css "#a" is still then back', 1, 6, /takes time/],
    ['script', 1, 7, /the script in double quotes/],
    ['script "x" with', 1, 16, /what the script is given/],
    ['switch window 1', 1, 8, /expected “to”/],
    ['switch to window 0', 1, 18, /counted from 1/],
    ['switch to frame', 1, 16, /expected an element/],
    ['new page', 1, 5, /expected “window”/],
    ['close', 1, 6, /expected “window”/],
    ['accept', 1, 7, /expected “dialog”/],
    ['accept dialog with yes', 1, 20, /what to answer/],
    ['cookie "a" "b"', 1, 12, /expected “is”/],
    ['forget', 1, 7, /expected “cookie”/],
    ['find a = css "#a"\ntype a into css "#b"', 2, 6, /“a” is an element; read something of it first/],
    ['draw a = word\npress a', 2, 7, /nothing was found as “a”/],
    ['', 1, 1, /does nothing yet/],
  ])('tells what is wrong with %s, where, and how to mend it', (text, line, column, message) => {
    const { drill, errors } = parseDrill(text);
    expect(drill).toBeUndefined();
    expect(errors[0]).toMatchObject({ line, column });
    expect(errors[0]!.message).toMatch(message);
  });

  it('tells every fault, not only the first', () => {
    expect(parseDrill('fly\nopen "x"\npause').errors.map(({ line }) => line)).toEqual([1, 3]);
  });

  it('never throws, whatever it is given', () => {
    fc.assert(fc.property(fc.string({ maxLength: 200 }), (text) => void parseDrill(text)));
    const word = fc.constantFrom(
      ...[
        'open',
        'find',
        'a',
        '=',
        'css',
        '"x"',
        'is',
        'wait',
        'until',
        'either',
        'or',
        '+',
        '.',
        ',',
        '5',
        'remember',
      ],
      ...['text', 'of', 'with', 'script', 'place', 'in', 'match', 'click', 'draw', 'number', 'to'],
    );
    fc.assert(fc.property(fc.array(word, { maxLength: 14 }), (words) => void parseDrill(words.join(' '))));
  });
});

describe('printing', () => {
  const text = fc.string({ maxLength: 20 });
  const whole = (min: number, max: number): fc.Arbitrary<number> => fc.integer({ min, max });
  // Two names are given at the head of every drill, so that any line may speak of them.
  const remembered: fc.Arbitrary<Remembered> = fc.oneof(
    fc.constant({ name: 'given-value' }),
    fc
      .array(fc.constantFrom('x', 'left', '0', '12'), { minLength: 1, maxLength: 3 })
      .map((path) => ({ name: 'given-value', path })),
  );
  const value: fc.Arbitrary<Value> = fc.oneof(
    { weight: 3, arbitrary: text as fc.Arbitrary<Value> },
    remembered.map((one) => ({ parts: [one] })),
    fc.tuple(text, remembered).map(([a, b]) => ({ parts: [a, b, a] })),
  );
  const target: fc.Arbitrary<Target> = fc.letrec<{ target: Target; locator: DrillLocator }>((tie) => ({
    target: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      fc.constant<Target>({ name: 'given-element' }),
      tie('locator').map((locator): Target => ({ locator })),
    ),
    locator: fc
      .record({
        by: fc.constantFrom(...strategies),
        value,
        named: fc.option(value, { nil: undefined }),
        match: fc.constantFrom(undefined, 2, 7),
        within: fc.option(tie('target'), { nil: undefined, depthSize: 'small' }),
      })
      .map(({ match, named, within, ...rest }) => ({
        ...rest,
        ...(named !== undefined && rest.by === 'role' ? { named } : {}),
        ...(match ? { match } : {}),
        ...(within ? { within } : {}),
      })),
  })).target;
  const locator = target.filter((one) => 'locator' in one).map((one) => (one as { locator: DrillLocator }).locator);
  const argument: fc.Arbitrary<Argument> = fc.oneof(
    target.map((one) => ({ target: one })),
    value.map((one) => ({ value: one })),
    whole(-9, 99).map((number) => ({ number })),
  );
  const given = fc.array(argument, { maxLength: 3 }).map((list) => (list.length ? { arguments: list } : {}));
  const subject: fc.Arbitrary<Subject> = fc.oneof(
    fc.constantFrom('title', 'address', 'dialog', 'windows').map((what) => ({ what })),
    fc
      .tuple(fc.constantFrom('text', 'displayed', 'enabled', 'selected', 'count'), target)
      .map(([what, of]) => ({ what, of })),
    fc
      .tuple(fc.constantFrom('attribute', 'property', 'style'), text, target)
      .map(([what, key, of]) => ({ what, key, of })),
    fc.tuple(text, given).map(([script, rest]) => ({ what: 'answer' as const, script, ...rest })),
  );
  const ms = whole(0, 20_000);
  const plainPattern = fc.constantFrom('^a\\d+$', 'x', '[0-9]{2}');
  const single: fc.Arbitrary<Condition> = fc.oneof(
    fc.tuple(fc.constantFrom('there', 'gone', 'still'), target).map(([kind, of]) => ({ kind, target: of })),
    fc
      .tuple(subject, fc.constantFrom(...comparisons), value, plainPattern, whole(-5, 500))
      .map(([of, comparison, any, pattern, number]): Condition => ({
        kind: 'value',
        subject: of,
        comparison,
        value: /match/.test(comparison) ? pattern : /at (least|most)/.test(comparison) ? String(number) : any,
      })),
    fc.tuple(text, given).map(([script, rest]): Condition => ({ kind: 'script', script, ...rest })),
    text.map((request): Condition => ({ kind: 'answered', request })),
    text.map((said): Condition => ({ kind: 'said', text: said })),
    ms.map((forMs): Condition => ({ kind: 'quiet', forMs })),
  );
  const condition = fc.oneof(
    single,
    fc.array(single, { minLength: 2, maxLength: 3 }).map((of): Condition => ({ kind: 'either', of })),
  );
  const takesTime = (one: Condition): boolean =>
    one.kind === 'still' || one.kind === 'quiet' || (one.kind === 'either' && one.of.some(takesTime));
  const amount = fc.oneof(
    whole(-50, 900),
    fc.tuple(remembered, whole(-20, 20)).map(([of, plus]) => ({ of, plus })),
  );
  const place: fc.Arbitrary<Place> = fc.oneof(
    target.map((one) => ({ target: one })),
    fc.tuple(target, whole(-9, 9), whole(-9, 9)).map(([one, x, y]) => ({ target: one, offset: { x, y } })),
    fc.tuple(amount, amount).map(([x, y]) => ({ x, y })),
  );
  const draw: fc.Arbitrary<Draw> = fc.oneof(
    fc.constantFrom('word', 'name', 'email').map((kind) => ({ kind })),
    fc.tuple(fc.constantFrom('letters', 'digits'), whole(1, 200)).map(([kind, length]) => ({ kind, length })),
    fc.tuple(whole(-9, 9), whole(9, 99)).map(([from, to]) => ({ kind: 'number' as const, from, to })),
    fc.array(text, { minLength: 1, maxLength: 3 }).map((texts) => ({ kind: 'one of' as const, texts })),
  );
  const name = fc.stringMatching(/^[a-z]{3,8}$/).map((word) => `n-${word}`);
  const statement: fc.Arbitrary<Statement> = fc.oneof(
    fc.tuple(whole(1, 3000), whole(1, 3000)).map(([width, height]): Statement => ({ do: 'window', width, height })),
    ms.map((one): Statement => ({ do: 'implicit', ms: one })),
    fc.tuple(fc.constantFrom('page load', 'script'), ms).map(([of, one]): Statement => ({ do: 'limit', of, ms: one })),
    whole(0, 9999).map((number): Statement => ({ do: 'seed', number })),
    fc.tuple(fc.constantFrom('group', 'note'), text).map(([what, words]): Statement => ({ do: what, words })),
    value.map((address): Statement => ({ do: 'open', address })),
    fc.tuple(name, locator).map(([found, where]): Statement => ({ do: 'find', name: found, locator: where })),
    fc
      .tuple(name, subject)
      .map(([to, of]): Statement => ({ do: 'remember', name: to, subject: of }))
      .filter((one) => one.do === 'remember' && one.subject.what !== 'answer'),
    fc.tuple(name, target).map(([to, of]): Statement => ({ do: 'remember place', name: to, target: of })),
    fc
      .tuple(name, text, given)
      .map(([to, script, rest]): Statement => ({ do: 'remember script', name: to, script, ...rest })),
    fc.tuple(name, draw).map(([to, from]): Statement => ({ do: 'draw', name: to, from })),
    fc
      .tuple(fc.constantFrom('press', 'clear', 'scroll to'), target)
      .map(([what, of]): Statement => ({ do: what, target: of })),
    fc
      .tuple(place, fc.constantFrom(undefined, 'twice', 'right', 'middle'), fc.constantFrom(undefined, 1500))
      .map(([at, how, overMs]): Statement => ({
        do: 'click',
        at,
        ...(how ? { how } : {}),
        ...(overMs ? { overMs } : {}),
      })),
    fc
      .tuple(place, fc.constantFrom(undefined, 300))
      .map(([at, overMs]): Statement => ({ do: 'hover', at, ...(overMs ? { overMs } : {}) })),
    fc.tuple(place, place).map(([from, to]): Statement => ({ do: 'drag', from, to })),
    fc.tuple(place, whole(-90, 90)).map(([from, x]): Statement => ({ do: 'drag by', from, x, y: -x + 1 })),
    whole(-90, 90).map((x): Statement => ({ do: 'scroll by', x, y: 3 })),
    fc.constantFrom('Enter', 'Control+A, Tab ×3', '“Ada”, F5').map((keys): Statement => ({ do: 'keys', keys })),
    fc
      .tuple(fc.constantFrom('choose', 'type'), value, target)
      .map(([what, one, of]): Statement => ({ do: what, text: one, target: of })),
    fc.tuple(text, target).map(([secret, of]): Statement => ({ do: 'type secret', secret, target: of })),
    fc.json().map((json): Statement => ({ do: 'actions', json })),
    subject.map((of): Statement => ({ do: 'read', subject: of })),
    condition.filter((one) => !takesTime(one)).map((that): Statement => ({ do: 'check', that })),
    fc
      .tuple(condition, ms, ms)
      .map(([until, limitMs, everyMs]): Statement => ({ do: 'wait', until, limitMs, everyMs })),
    ms.map((pause): Statement => ({ do: 'pause', ms: pause })),
    fc.tuple(text, given).map(([script, rest]): Statement => ({ do: 'script', script, ...rest })),
    whole(1, 9).map((number): Statement => ({ do: 'to window', number })),
    value.map((address): Statement => ({ do: 'to window at', address })),
    fc.constantFrom<Statement>(
      { do: 'to newest window' },
      { do: 'new window', what: 'tab' },
      { do: 'new window', what: 'window' },
      { do: 'to frame', where: 'top' },
      { do: 'to frame', where: 'parent' },
      { do: 'to frame', number: 2 },
      { do: 'close window' },
      { do: 'dialog', answer: 'dismiss' },
      { do: 'dialog', answer: 'accept', text: 'yes' },
      { do: 'forget cookies' },
      { do: 'forget cookies', name: 'a' },
      { do: 'reload' },
      { do: 'back' },
      { do: 'forward' },
      { do: 'screenshot' },
    ),
    target.map((of): Statement => ({ do: 'to frame', target: of })),
    fc
      .tuple(condition, target)
      .filter(([one]) => !takesTime(one))
      .map(([that, of]): Statement => ({ do: 'when', that, then: { do: 'press', target: of } })),
    fc.tuple(text, value).map(([cookie, one]): Statement => ({ do: 'cookie', name: cookie, value: one })),
  );
  const head: Statement[] = [
    { do: 'find', name: 'given-element', locator: { by: 'css', value: '#a' } },
    { do: 'draw', name: 'given-value', from: { kind: 'word' } },
  ];

  it('what is printed reads back to the same drill, whatever it says', () => {
    fc.assert(
      fc.property(text, fc.array(statement, { minLength: 1, maxLength: 12 }), (title, statements) => {
        const lines = [...head, ...statements].map((one, i) => ({ ...one, line: i + 3 }));
        const { drill, errors } = parseDrill(printDrill({ title, lines }));
        expect(errors).toEqual([]);
        expect(drill).toEqual({ title, lines });
      }),
      { numRuns: 400 },
    );
  });
});
