import { describe, expect, it } from 'vitest';
import type { FailureKind } from './failure.ts';
import { headlineOf, readMessage } from './message.ts';
import { readStack } from './stack.ts';

/**
 * Messages as test libraries, drivers and languages word them, and what can be read from each. The
 * texts are ours, about the ferry shop; their shapes are those the trade meets every day.
 */
interface Facts {
  kind: FailureKind;
  css?: string;
  xpath?: string;
  by?: [string, string];
  point?: [number, number];
  over?: string;
  expected?: string;
  actual?: string;
  limit?: number;
  window?: string;
}

const table: [string, Facts][] = [
  // What drivers answer, and how clients in several languages wrap it.
  ['stale element reference: stale element not found in the current frame', { kind: 'stale-element' }],
  [
    'StaleElementReferenceException: element is not attached to the page document\n  (Session info: chrome=156)',
    { kind: 'stale-element' },
  ],
  [
    'ferry.errors.StaleElement: The element reference of <button id="hold"> is stale; either the element is no longer attached to the DOM or the document has been refreshed',
    { kind: 'stale-element' },
  ],
  ['Node is detached from document', { kind: 'stale-element' }],
  ['detached shadow root: the root of port-list is gone', { kind: 'stale-element' }],
  [
    'element click intercepted: Element <button id="hold">...</button> is not clickable at point (1150, 610). Other element would receive the click: <div class="notice shown">...</div>',
    { kind: 'press-intercepted', point: [1150, 610], over: '<div class="notice shown">' },
  ],
  [
    'ElementClickInterceptedException: Element <a class="pay"> is not clickable at point (411.5,675) because another element <footer class="bar"> obscures it',
    { kind: 'press-intercepted', point: [411.5, 675], over: '<footer class="bar">' },
  ],
  [
    'press on #pay: <div class="veil"></div> intercepts pointer events',
    { kind: 'press-intercepted', over: '<div class="veil">' },
  ],
  [
    'The button is covered by another element: <aside id="help">',
    { kind: 'press-intercepted', over: '<aside id="help">' },
  ],
  [
    'no such element: Unable to locate element: {"method":"css selector","selector":"#seat-map .seat[data-seat=\\"2A\\"]"}',
    { kind: 'no-such-element', css: '#seat-map .seat[data-seat="2A"]' },
  ],
  [
    'no such element: Unable to locate element: {"method":"xpath","selector":"//button[text()=\'Hold seat\']"}',
    { kind: 'no-such-element', xpath: "//button[text()='Hold seat']" },
  ],
  ['Unable to locate element: #boarding-pass', { kind: 'no-such-element', css: '#boarding-pass' }],
  ['Unable to locate element: //div[@class="fare"]', { kind: 'no-such-element', xpath: '//div[@class="fare"]' }],
  [
    'NoSuchElementError: no such element, using link text "Boarding pass"',
    { kind: 'no-such-element', by: ['link text', 'Boarding pass'] },
  ],
  ['Cannot locate an element using By.id: passenger', { kind: 'no-such-element', by: ['id', 'passenger'] }],
  [
    'Could not find element By(css selector, .sailing.cancelled)',
    { kind: 'no-such-element', css: '.sailing.cancelled' },
  ],
  ["Unable to find element ('xpath', '//h1')", { kind: 'no-such-element', xpath: '//h1' }],
  ['Element [css selector: .total .fare] not found', { kind: 'no-such-element', css: '.total .fare' }],
  ['element #hold was not found in the page', { kind: 'no-such-element', css: '#hold' }],
  [
    'no such element: Unable to locate element: {"using":"partial link text","value":"Kuzu"}',
    { kind: 'no-such-element', by: ['partial link text', 'Kuzu'] },
  ],
  ['element not interactable: element has zero size', { kind: 'not-interactable' }],
  [
    'ElementNotInteractableException: Element <input name="promo"> could not be scrolled into view',
    { kind: 'not-interactable' },
  ],
  [
    'move target out of bounds: (1400, 20) is out of bounds of viewport width (1280) and height (800)',
    { kind: 'not-interactable' },
  ],
  [
    'invalid element state: Element is not currently interactable and may not be manipulated',
    { kind: 'not-interactable' },
  ],
  ["Element locator('#hold') is not visible", { kind: 'not-interactable', css: '#hold' }],
  ['no such window: target window already closed\nfrom unknown error: web view not found', { kind: 'no-such-window' }],
  [
    'NoSuchWindowError: window with handle 9A7F00D2C4B1E86A55 was closed',
    { kind: 'no-such-window', window: '9A7F00D2C4B1E86A55' },
  ],
  ['No window with title "Boarding pass" was found', { kind: 'no-such-window', window: 'Boarding pass' }],
  ["no such frame: the frame named 'payment' could not be found", { kind: 'no-such-window', window: 'payment' }],
  ['Browsing context has been discarded', { kind: 'no-such-window' }],
  ['unexpected alert open: {Alert text : Leave this page? Your seat is not held.}', { kind: 'unexpected-dialog' }],
  ['UnhandledAlertException: Modal dialog present with text: Session over', { kind: 'unexpected-dialog' }],
  ['no such alert: no dialog is open', { kind: 'unexpected-dialog' }],
  ['javascript error: fares is not defined\n  (Session info: chrome=156)', { kind: 'script-error' }],
  ['JavascriptException: TypeError: window.ferry is undefined', { kind: 'script-error' }],
  ['invalid selector: An invalid or illegal selector was specified: div[', { kind: 'invalid-locator' }],
  ['InvalidSelectorException: Given xpath expression "//div[" is invalid', { kind: 'invalid-locator' }],
  ['session not created: This version of the driver only supports browser version 156', { kind: 'browser-gone' }],
  [
    'invalid session id: session deleted as the browser has closed the connection\nfrom disconnected: not connected',
    { kind: 'browser-gone' },
  ],
  ['tab crashed\n  (Session info: chrome=156)', { kind: 'browser-gone' }],
  ['unknown error: net::ERR_CONNECTION_REFUSED', { kind: 'unreachable' }],
  ['Reached error page: about:neterror?e=dnsNotFound&u=http%3A//ferry.test/', { kind: 'unreachable' }],
  ['connect ECONNREFUSED 127.0.0.1:4871', { kind: 'unreachable' }],
  // Waits that ran out.
  ['timeout: Timed out receiving message from renderer: 300.000', { kind: 'timeout' }],
  [
    'TimeoutException: Expected condition failed: waiting for visibility of element located by By.cssSelector: #fare (tried for 10 second(s) with 500 milliseconds interval)',
    { kind: 'timeout', css: '#fare', limit: 10_000 },
  ],
  ['timed out after 3000 ms waiting for the fare', { kind: 'timeout', limit: 3000 }],
  ['Timeout of 2000ms exceeded. For async tests, ensure the callback is called.', { kind: 'timeout', limit: 2000 }],
  ['Timeout 30000ms exceeded while waiting for selector "#pass"', { kind: 'timeout', css: '#pass', limit: 30_000 }],
  ['Wait timed out after 10043ms', { kind: 'timeout', limit: 10_043 }],
  [
    'Timed out retrying after 4000ms: expected to find element: .seat.held, but never found it',
    { kind: 'timeout', limit: 4000 },
  ],
  ['thrown: "Exceeded timeout of 5000 ms for a test."', { kind: 'timeout', limit: 5000 }],
  ['TimeoutError: still loading after 2 minutes, gave up after 2 minutes', { kind: 'timeout', limit: 120_000 }],
  ['test timed out after 1,500 milliseconds', { kind: 'timeout', limit: 1500 }],
  ['script timeout: the asynchronous script did not answer', { kind: 'timeout' }],
  ['context deadline exceeded', { kind: 'timeout' }],
  ['Test timed out in 5000ms.', { kind: 'timeout', limit: 5000 }],
  // Assertions, JavaScript.
  [
    'expected "Kuzu Island" but got "Lodos Harbour"',
    { kind: 'assertion', expected: 'Kuzu Island', actual: 'Lodos Harbour' },
  ],
  ["expected 'Seat 2A' to equal 'Seat 2B'", { kind: 'assertion', expected: 'Seat 2B', actual: 'Seat 2A' }],
  [
    'AssertionError: expected 412 to be 384 // Object.is equality',
    { kind: 'assertion', expected: '384', actual: '412' },
  ],
  [
    'expect(received).toBe(expected) // Object.is equality\n\nExpected: "384 lira"\nReceived: "412 lira"',
    { kind: 'assertion', expected: '384 lira', actual: '412 lira' },
  ],
  [
    "AssertionError [ERR_ASSERTION]: Expected values to be strictly equal:\n\n'held' !== 'free'\n",
    { kind: 'assertion', expected: 'free', actual: 'held' },
  ],
  [
    'Expected values to be strictly equal:\n+ actual - expected\n\n+ 3\n- 4',
    { kind: 'assertion', expected: '4', actual: '3' },
  ],
  ['expected false to be true', { kind: 'assertion', expected: 'true', actual: 'false' }],
  ["expected [ '2A', '2B' ] to deeply equal [ '2A' ]", { kind: 'assertion' }],
  // Python.
  [
    "AssertionError: 'Lodos Harbour' != 'Kuzu Island'\n- Lodos Harbour\n+ Kuzu Island\n",
    { kind: 'assertion', expected: 'Kuzu Island', actual: 'Lodos Harbour' },
  ],
  ['AssertionError: 412 != 384 : the fare', { kind: 'assertion', expected: '384', actual: '412' }],
  [
    "E       AssertionError: assert 'held' == 'free'\nE         - free\nE         + held",
    { kind: 'assertion', expected: 'free', actual: 'held' },
  ],
  ['assert 3 == 4', { kind: 'assertion', expected: '4', actual: '3' }],
  ['AssertionError: False is not true', { kind: 'assertion' }],
  ["KeyError: 'fare'", { kind: 'test-error' }],
  ["AttributeError: 'NoneType' object has no attribute 'click'", { kind: 'test-error' }],
  // Java and its kin.
  [
    'org.junit.ComparisonFailure: expected:<[Kuzu Island]> but was:<[Lodos Harbour]>',
    { kind: 'assertion', expected: '[Kuzu Island]', actual: '[Lodos Harbour]' },
  ],
  ['expected:<seat 2[B]> but was:<seat 2[A]>', { kind: 'assertion', expected: 'seat 2B', actual: 'seat 2A' }],
  ['expected: <384> but was: <412>', { kind: 'assertion', expected: '384', actual: '412' }],
  ['Expected: is "held"\n     but: was "free"', { kind: 'assertion', expected: 'held', actual: 'free' }],
  [
    'Expecting actual:\n  "412"\nto be equal to:\n  "384"\nbut was not.',
    { kind: 'assertion', expected: '384', actual: '412' },
  ],
  ['java.lang.NullPointerException: Cannot invoke "Seat.hold()" because "seat" is null', { kind: 'test-error' }],
  // C++.
  [
    'fare_test.cc:12: Failure\nExpected equality of these values:\n  fare("e-1840")\n    Which is: 412\n  384',
    { kind: 'assertion', expected: '384', actual: '412' },
  ],
  [
    'Expected equality of these values:\n  384\n  shop.fare()\n    Which is: 412',
    { kind: 'assertion', expected: '384', actual: '412' },
  ],
  ['REQUIRE( fare == 384 )\nwith expansion:\n  412 == 384', { kind: 'assertion', expected: '384', actual: '412' }],
  // .NET, Go, Perl, Ruby, PHP, shell, Rust.
  ['Assert.Equal() Failure\nExpected: 384\nActual:   412', { kind: 'assertion', expected: '384', actual: '412' }],
  ['  Expected: "held"\n  But was:  "free"', { kind: 'assertion', expected: 'held', actual: 'free' }],
  ['System.NullReferenceException: Object reference not set to an instance of an object.', { kind: 'test-error' }],
  ['fare(e-1840) got 412, want 384', { kind: 'assertion', expected: '384', actual: '412' }],
  [
    'Error:      \tNot equal: \n\texpected: 384\n\tactual  : 412',
    { kind: 'assertion', expected: '384', actual: '412' },
  ],
  [
    "  Failed test 'the fare'\n  at t/fare.t line 8.\n         got: '412'\n    expected: '384'",
    { kind: 'assertion', expected: '384', actual: '412' },
  ],
  [
    'expected: "held"\n     got: "free"\n\n(compared using ==)',
    { kind: 'assertion', expected: 'held', actual: 'free' },
  ],
  ["undefined method `hold' for nil", { kind: 'test-error' }],
  [
    "Failed asserting that two strings are equal.\n--- Expected\n+++ Actual\n@@ @@\n-'held'\n+'free'",
    { kind: 'assertion', expected: 'held', actual: 'free' },
  ],
  ['Failed asserting that 412 matches expected 384.', { kind: 'assertion', expected: '384', actual: '412' }],
  ['assertion `left == right` failed\n  left: 412\n right: 384', { kind: 'assertion' }],
  ['(in test file fare.bats, line 5)\n  `[ "$fare" = 384 ]\' failed', { kind: 'assertion' }],
  // Bare ones, and ones that say nothing we know: nothing may be invented.
  ['true was not false', { kind: 'assertion' }],
  ['should be held', { kind: 'assertion' }],
  ['Harbour closed for the winter', { kind: 'driver-error' }],
  ['', { kind: 'unread' }],
];

describe('messages of many wordings', () => {
  it('are at least eighty', () => expect(table.length).toBeGreaterThanOrEqual(80));

  it.each(table)('%s', (message, facts) => {
    const read = readMessage(message);
    const locator =
      facts.css !== undefined
        ? { using: 'css selector', value: facts.css }
        : facts.xpath !== undefined
          ? { using: 'xpath', value: facts.xpath }
          : facts.by
            ? { using: facts.by[0], value: facts.by[1] }
            : undefined;
    expect({
      kind: read.kind,
      locator: read.locator,
      point: read.point && [read.point.x, read.point.y],
      over: read.obstructing,
      expected: read.values?.expected,
      actual: read.values?.actual,
      limit: read.limitMs,
      window: read.window,
    }).toEqual({
      kind: facts.kind,
      locator,
      point: facts.point,
      over: facts.over,
      expected: facts.expected,
      actual: facts.actual,
      limit: facts.limit,
      window: facts.window,
    });
  });

  it.each([
    ['org.junit.ComparisonFailure: expected:<a> but was:<b>', 'expected:<a> but was:<b>'],
    ['Traceback (most recent call last):\n  File "t.py", line 3, in test\nAssertionError: 3 != 4', '3 != 4'],
    ['fare_test.cc:12: Failure\nExpected equality of these values:\n  a', 'Expected equality of these values:'],
  ])('tells the line that matters: %s', (text, headline) => expect(headlineOf(text)).toBe(headline));
});

describe('the first line of one’s own code', () => {
  it.each([
    [
      '    at Object.fn (/shop/node_modules/lib/a.js:1:2)\n    at hold (/shop/tests/hold.ts:14:7)',
      '/shop/tests/hold.ts',
      14,
    ],
    [
      'Traceback (most recent call last):\n  File "/shop/tests/test_hold.py", line 9, in test_hold\n    driver.find()\n  File "/usr/lib/python3/dist-packages/lib/x.py", line 4, in find',
      '/shop/tests/test_hold.py',
      9,
    ],
    [
      '\tat org.junit.Assert.fail(Assert.java:89)\n\tat lodos.HoldTest.holds(HoldTest.java:31)\n\tat java.base/java.lang.Thread.run(Thread.java:1583)',
      'HoldTest.java',
      31,
    ],
    [
      '   at Xunit.Assert.Equal(String a) in /_/src/Assert.cs:line 12\n   at Lodos.HoldTests.Holds() in /shop/HoldTests.cs:line 44',
      '/shop/HoldTests.cs',
      44,
    ],
    ["/usr/lib/ruby/gems/3/lib/expect.rb:9:in `fail'\n./spec/hold_spec.rb:17:in `block'", './spec/hold_spec.rb', 17],
    ["  Failed test 'the fare'\n  at t/fare.t line 8.", 't/fare.t', 8],
    ['fare_test.cc:12: Failure', 'fare_test.cc', 12],
    ["(in test file tests/fare.bats, line 5)\n  `false' failed", 'tests/fare.bats', 5],
    [
      '#0 /shop/vendor/lib/Assert.php(3): fail()\n#1 /shop/tests/HoldTest.php(21): holds()',
      '/shop/tests/HoldTest.php',
      21,
    ],
    [
      'testing.tRunner(0x1)\n\t/usr/lib/go/src/testing/testing.go:1689 +0xfb\nlodos.TestHold(0x1)\n\t/shop/hold_test.go:27 +0x1d',
      '/shop/hold_test.go',
      27,
    ],
    ['holds@http://ferry.test/shop/hold.js:5:9', 'http://ferry.test/shop/hold.js', 5],
  ])('%s', (stack, file, line) => {
    expect(readStack(stack).ownFrame).toMatchObject({ file, line });
  });

  it('follows what the project says of its own code', () => {
    const stack =
      '    at press (/shop/pages/base.ts:3:1)\n    at hold (/shop/node_modules/@lodos/kit/hold.ts:14:7)\n    at test (/shop/tests/hold.ts:2:1)';
    expect(readStack(stack, undefined, { own: ['@lodos/kit'], library: ['pages/base'] }).ownFrame).toMatchObject({
      line: 14,
    });
    expect(readStack(stack).ownFrame).toMatchObject({ file: '/shop/pages/base.ts' });
  });
});
