import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { elementsOf, inside, treeOf } from './markup.ts';

const html = '<body><ul><li class="a">One <b>two</b></li><li>Three</li></ul><script>no()</script></body>';

describe('a document as a tree', () => {
  it('tells what lies in what, and what a selector finds', () => {
    const tree = treeOf(html);
    const [first, second] = tree.find('li');
    expect(first!.text).toBe('One two');
    expect(first!.children.map(({ tag }) => tag)).toEqual(['b']);
    expect(first!.parent!.children).toEqual([first, second]);
    expect(tree.find('ul .a b')[0]!.parent).toBe(first);
    expect(inside(tree.find('ul')[0]!).map(({ tag }) => tag)).toEqual(['li', 'b', 'li']);
  });

  it('finds nothing for what is no selector, or none of a person’s making', () => {
    const tree = treeOf(html);
    for (const css of ['li[', '', ':nonsense(', 'li::before', `li${':not(b)'.repeat(200)}`])
      expect(tree.find(css)).toEqual([]);
  });

  it('has the same elements with the same texts as the flat reading, whatever the markup', () => {
    const piece = fc.constantFrom(
      '<p>',
      '</p>',
      '<div class="x">',
      '</div>',
      'a b',
      '<script>',
      '</script>',
      '<b',
      '>',
      '"',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 60 }), (parts) => {
        const markup = parts.join('');
        const flat = elementsOf(markup);
        const { all } = treeOf(markup);
        expect(all.map(({ tag, text }) => ({ tag, text }))).toEqual(flat.map(({ tag, text }) => ({ tag, text })));
        for (const one of all) expect(one.parent === undefined || one.parent.children.includes(one)).toBe(true);
      }),
      { numRuns: 200 },
    );
  });

  it('ends with a document as deep as it is long', () => {
    expect(treeOf('<div>'.repeat(50_000)).all.length).toBeLessThan(500);
  });
});
