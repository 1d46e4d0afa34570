// Whether a change in a page can concern what is watched: a function expression of its own. It may say yes too often,
// never too seldom; where it cannot tell it says yes.
(() => {
  // What makes a match depend on elements besides itself and those it stands in.
  const complex = /[+~|:]/;
  const styles = (locator) => {
    const all = [];
    for (let one = locator; one; one = one.within) {
      if (one.using !== 'css selector' || complex.test(one.value)) return null;
      all.push(one.value);
    }
    return all;
  };
  // Of each of the alternatives what the match itself has to be: a superset of what the whole selector matches.
  const lastOf = (selector) =>
    selector
      .split(',')
      .map((one) =>
        one
          .trim()
          .split(/[\s>]+/)
          .at(-1),
      )
      .join(',');
  /** What has to be known of a locator, once. Nothing for one that any change may concern. */
  const plan = (locator) => {
    const all = styles(locator);
    // What stands between brackets is not looked into: a space or comma there would be taken for one between elements.
    if (
      !all ||
      all.some(
        (one) =>
          one.includes('(') ||
          one
            .split('[')
            .slice(1)
            .some((part) => /[\s>,]/.test(part.split(']')[0])),
      )
    )
      return null;
    const last = lastOf(all[0]);
    try {
      document.createElement('i').matches(last);
    } catch {
      return null;
    }
    return { last, text: all.join(' ') };
  };
  const someElement = (nodes) => {
    for (const node of nodes) if (node.nodeType === 1) return true;
    return false;
  };
  const holds = (nodes, selector, el) => {
    for (const node of nodes) {
      if (node.nodeType !== 1) continue;
      if (node.matches(selector) || node.querySelector(selector) || (el && node.contains(el))) return true;
    }
    return false;
  };
  const reads = (text, attribute) =>
    attribute === 'class'
      ? text.includes('.') || text.includes('[class')
      : attribute === 'id'
        ? text.includes('#') || text.includes('[id')
        : text.includes(`[${attribute}`);
  /**
   * Whether a change concerns a line.
   * @param el what its locator matches now, if anything
   */
  const concerns = (change, line, el) => {
    const { target, type } = change;
    // What it matches is what changed, stands in it or holds it.
    if (el && el.contains(target)) return true;
    if (
      el &&
      type === 'childList' &&
      target.contains(el) &&
      (someElement(change.addedNodes) || someElement(change.removedNodes))
    )
      return true;
    if (!line.plan) return true;
    if (type === 'characterData') return false;
    if (type === 'attributes') return change.attributeName !== 'style' && reads(line.plan.text, change.attributeName);
    return holds(change.addedNodes, line.plan.last, null) || holds(change.removedNodes, line.plan.last, el);
  };
  // More changes at once than are looked at one by one.
  const most = 150;
  const any = (changes, line) => changes.length > most || changes.some((change) => concerns(change, line, line.el));
  const onlyText = (changes) =>
    changes.every(
      ({ type, addedNodes, removedNodes }) =>
        type === 'characterData' || (type === 'childList' && !someElement(addedNodes) && !someElement(removedNodes)),
    );
  return { plan, any, onlyText };
})();
