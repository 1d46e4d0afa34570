import type { Locator } from '../../core/evidence/event.ts';

/**
 * Recorded markup, made fit to be looked at: parsed without ever becoming part of a page, stripped of
 * whatever could run, lead away or fetch, and shown in a frame that may do none of that either.
 */

const dropped =
  'script, noscript, base, meta, link, iframe, frame, frameset, object, embed, applet, portal, audio, video, source, track, img[srcset], svg use, svg image, svg foreignObject, svg animate, svg set, math';
/** Attributes that name an address, which nobody is to follow or fetch here. */
const addresses = new Set([
  'src',
  'srcset',
  'href',
  'xlink:href',
  'action',
  'formaction',
  'background',
  'poster',
  'data',
  'ping',
  'cite',
  'longdesc',
  'manifest',
  'profile',
  'codebase',
  'archive',
  'classid',
  'srcdoc',
  'target',
  'http-equiv',
  'autofocus',
  'is',
  'imagesrcset',
]);

/** Parses markup as a document that runs nothing and loads nothing. */
export const parseInert = (markup: string): Document => new DOMParser().parseFromString(markup, 'text/html');

/** Nothing is loaded, whatever the markup says: the frame's own policy, besides its sandbox. */
const policy = "default-src 'none'; style-src 'unsafe-inline'; form-action 'none'; base-uri 'none'";
const marked = 'data-iskel-match';

/** The document as text for the `srcdoc` of a sandboxed frame; `matches` are outlined in it. */
export function inertText(doc: Document, matches: readonly Element[] = []): string {
  for (const one of doc.querySelectorAll(`[${marked}]`)) one.removeAttribute(marked);
  for (const one of matches) one.setAttribute(marked, '');
  const copy = doc.cloneNode(true) as Document;
  clean(copy);
  const style = copy.createElement('style');
  style.textContent = `[${marked}]{outline:3px solid #6a549a!important;outline-offset:1px!important}iskel-frame{border:1px dashed #9aa8a8}`;
  copy.head.append(style);
  const html = copy.documentElement.outerHTML;
  return `<!doctype html>${html.replace(/<head(?:\s[^<>]*)?>/, (head) => `${head}<meta http-equiv="Content-Security-Policy" content="${policy}">`)}`;
}

function clean(root: Document | DocumentFragment): void {
  for (const element of [...root.querySelectorAll('*')]) {
    if (element.matches(dropped) && element.localName !== 'img') {
      element.remove();
      continue;
    }
    if (element instanceof HTMLTemplateElement) clean(element.content);
    for (const { name, value } of [...element.attributes]) {
      const plain = name.toLowerCase();
      if (plain.startsWith('on') || addresses.has(plain)) element.removeAttribute(name);
      else if (plain === 'style') element.setAttribute(name, withoutAddresses(value));
    }
    if (element.localName === 'style') element.textContent = withoutAddresses(element.textContent ?? '');
    if (element.localName === 'form') element.replaceWith(...element.childNodes);
  }
}

/** A style without anything it would fetch. Escapes could hide an address: where there are any near one, all goes. */
function withoutAddresses(css: string): string {
  if (/\\[0-9a-f]/i.test(css) && /url|import|image|src/i.test(css.replace(/\\[0-9a-f]{1,6}\s?/gi, 'u')))
    css = css.replace(/\\[0-9a-f]{1,6}\s?/gi, '');
  return css
    .replace(/@import[^;]*;?/gi, '')
    .replace(/@font-face\s{0,20}\{[^{}]*\}/gi, '')
    .replace(/(?:url|image|image-set|-webkit-image-set|src|cross-fade|element)\s*\([^)]*\)?/gi, 'none');
}

/** Strategies a locator can be tried with. */
export const strategies = ['css selector', 'xpath', 'link text', 'partial link text', 'tag name'] as const;

/** The elements a locator matches in a parsed document. @throws Error in words when the locator cannot be read */
export function matchesIn(doc: Document, locator: Locator): Element[] {
  const root = locator.within ? matchesIn(doc, locator.within)[locator.within.index ?? 0] : doc;
  if (!root) return [];
  try {
    switch (locator.using) {
      case 'css selector':
        return [...root.querySelectorAll(locator.value)];
      case 'tag name':
        return [...root.querySelectorAll(CSS.escape(locator.value))];
      case 'xpath': {
        const found = doc.evaluate(locator.value, root, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
        return Array.from({ length: found.snapshotLength }, (_, i) => found.snapshotItem(i)).filter(
          (node): node is Element => node instanceof Element,
        );
      }
      case 'link text':
        return [...root.querySelectorAll('a')].filter((a) => a.textContent?.trim() === locator.value.trim());
      case 'partial link text':
        return [...root.querySelectorAll('a')].filter((a) => a.textContent?.includes(locator.value));
    }
  } catch {
    throw new Error(`“${locator.value}” cannot be read as ${locator.using}`);
  }
  throw new Error(`locators by “${locator.using}” are not tried here`);
}

/** An element in a few words: its tag, what names it, and its text. */
export function elementWords(element: Element): string {
  const id = element.id ? `#${element.id}` : '';
  const classes = [...element.classList].slice(0, 3).map((one) => `.${one}`);
  const text = (element.textContent ?? '').replace(/\s+/g, ' ').trim();
  return `${element.localName}${id}${classes.join('')}${text ? ` “${text.length > 50 ? `${text.slice(0, 49)}…` : text}”` : ''}`;
}
