import { selectAll } from 'css-select';
import type { AnyNode, Element } from 'domhandler';
import { parseDocument } from 'htmlparser2';

/** An element of a written-out document, with what locators ask of it. */
export interface MarkupElement {
  tag: string;
  attrs: Readonly<Record<string, string>>;
  /** Its text and that of all inside it, spaces made one. */
  text: string;
}

interface Parsed {
  type: string;
  name?: string;
  attribs?: Record<string, string>;
  data?: string;
  children?: Parsed[];
}

/** Not part of what a page says. */
const silent = new Set(['style', 'script', 'head', 'template', 'title']);
/** A document deeper than this is no document of a person's making. */
const deepest = 400;

/** All elements of a document, in their order. Hostile markup costs time in proportion to its length, no more. */
export function elementsOf(markup: string): MarkupElement[] {
  const out: MarkupElement[] = [];
  const visit = (node: Parsed, depth: number): string => {
    if (node.type === 'text') return node.data ?? '';
    if (depth > deepest || (node.name !== undefined && silent.has(node.name))) return '';
    const own = node.name === undefined ? undefined : { tag: node.name, attrs: node.attribs ?? {}, text: '' };
    if (own) out.push(own);
    const text = (node.children ?? []).map((child) => visit(child, depth + 1)).join('');
    if (own) own.text = clean(text);
    return text;
  };
  visit(parseDocument(markup) as unknown as Parsed, 0);
  return out;
}

/** A document that can be asked what lies in what. */
export interface Tree {
  all: readonly TreeElement[];
  /** What a CSS selector finds, in the document's order; nothing for one that makes no sense. */
  find(css: string): TreeElement[];
}

export interface TreeElement extends MarkupElement {
  parent: TreeElement | undefined;
  children: readonly TreeElement[];
}

/** A selector longer than this is none of a person's making. */
const longestSelector = 400;

/** Reads a document as a tree. Elements deeper than any page's are left out. */
export function treeOf(markup: string): Tree {
  const all: TreeElement[] = [];
  const own = new Map<AnyNode, TreeElement>();
  const visit = (node: AnyNode, parent: TreeElement | undefined, depth: number): string => {
    if (node.type === 'text') return node.data;
    if (!('children' in node) || depth > deepest) return '';
    const element = node as Element;
    if (element.name !== undefined && silent.has(element.name)) return '';
    const children: TreeElement[] = [];
    const one =
      element.name === undefined
        ? undefined
        : { tag: element.name, attrs: element.attribs, text: '', parent, children };
    if (one) {
      all.push(one);
      own.set(node, one);
      (parent?.children as TreeElement[] | undefined)?.push(one);
    }
    const text = node.children.map((child) => visit(child, one ?? parent, depth + 1)).join('');
    if (one) one.text = clean(text);
    return text;
  };
  const document = parseDocument(markup);
  visit(document, undefined, 0);
  return {
    all,
    find: (css) => {
      if (css.length > longestSelector) return [];
      try {
        return selectAll<AnyNode, Element>(css, document).flatMap((element) => own.get(element) ?? []);
      } catch {
        return [];
      }
    },
  };
}

/** All that lies in an element, in the document's order. */
export const inside = ({ children }: TreeElement): TreeElement[] =>
  children.flatMap((child) => [child, ...inside(child)]);

/** What a document calls itself; empty where it does not say. */
export const titleOf = (markup: string): string =>
  clean(decoded(/<title>([^<]{0,400})/.exec(markup.slice(0, mostHead))?.[1] ?? ''));

/** A title stands before the page's body; its styles may be long. */
const mostHead = 300_000;
const decoded = (text: string): string =>
  text
    .replace(/&lt;/g, '<')
    .replace(/&quot;/g, '"')
    .replace(/&amp;/g, '&');

export const clean = (text: string): string => text.replace(/\s+/g, ' ').trim();
