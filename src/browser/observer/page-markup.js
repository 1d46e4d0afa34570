// Writes a document out as text. By hand and not by the page's own serialiser, so that fields show what
// they hold, secrets are left out, and styles come along without being fetched again. The whole file is
// one function expression, sent as text into the page beside in-page.js.
({ isSecret, cut, round }) => {
  const mostMarkup = 400_000;
  const empty = /^(?:area|base|br|col|embed|hr|img|input|link|meta|source|track|wbr)$/;
  const left = /^(?:script|noscript|iframe|object|embed|template|base|meta|link|frame|frameset)$/;
  const quoted = (text) => text.replace(/&/g, '&amp;').replace(/"/g, '&quot;').replace(/</g, '&lt;');

  // A form's own fields may be called as what is asked of it: these are never theirs.
  const own = (kind, name) => Object.getOwnPropertyDescriptor(kind.prototype, name).get;
  const attributesOf = own(Element, 'attributes');
  const nameOf = own(Element, 'localName');
  const shadowOf = own(Element, 'shadowRoot');
  const childrenOf = own(Node, 'childNodes');
  const typeOf = own(Node, 'nodeType');

  const out = [];
  let length = 0;
  const put = (text) => {
    out.push(text);
    length += text.length;
  };
  const styles = () => {
    for (const sheet of document.styleSheets) {
      try {
        const rules = Array.from(sheet.cssRules, (rule) => rule.cssText).join('\n');
        if (length + rules.length < mostMarkup / 2) put(`<style>${rules.replace(/<\//g, '<\\/')}</style>`);
      } catch {
        // a sheet of another host cannot be read
      }
    }
  };
  const write = (node) => {
    if (length > mostMarkup) return;
    const type = typeOf.call(node);
    if (type === 3) {
      put(node.data.replace(/&/g, '&amp;').replace(/</g, '&lt;'));
      return;
    }
    if (type !== 1) return;
    const tag = nameOf.call(node);
    if (left.test(tag) || tag === 'style') {
      if (tag === 'iframe' || tag === 'object' || tag === 'embed') {
        const r = node.getBoundingClientRect();
        put(
          `<iskel-frame id="${quoted(node.id || '')}" style="display:inline-block;width:${round(r.width)}px;height:${round(r.height)}px"></iskel-frame>`,
        );
      }
      return;
    }
    put(`<${tag}`);
    for (const { name, value } of attributesOf.call(node)) {
      if (/^on/i.test(name) || name === 'value' || name === 'srcset') continue;
      put(` ${name}="${quoted(cut(value, 2000))}"`);
    }
    if (tag === 'input' || tag === 'textarea' || tag === 'select') {
      if (node.checked) put(' checked=""');
      if (tag === 'input') put(` value="${isSecret(node) ? '«masked»' : quoted(cut(node.value, 400))}"`);
    }
    if (tag === 'option' && node.selected) put(' selected=""');
    put('>');
    if (empty.test(tag)) return;
    const shadow = shadowOf.call(node);
    if (shadow) {
      put('<template shadowrootmode="open">');
      for (const child of childrenOf.call(shadow)) write(child);
      put('</template>');
    }
    if (tag === 'textarea') put(quoted(cut(node.value, 2000)));
    else {
      if (tag === 'head') styles();
      for (const child of childrenOf.call(node)) write(child);
    }
    put(`</${tag}>`);
  };
  write(document.documentElement);
  return out.join('');
};
