// Where an element lies and what lies over it: a function expression of its own.
({ round, describe }) => {
  // Where this document's own corner is in the window: frames of the same host tell, others cannot be asked.
  const framed = window.parent !== window;
  const offset = () => {
    let x = 0;
    let y = 0;
    try {
      for (let w = window; w !== w.parent; w = w.parent) {
        const el = w.frameElement;
        if (!el) return null;
        const rect = el.getBoundingClientRect();
        const style = w.parent.getComputedStyle(el);
        x += rect.x + el.clientLeft + parseFloat(style.paddingLeft);
        y += rect.y + el.clientTop + parseFloat(style.paddingTop);
      }
    } catch {
      return null;
    }
    return { x: round(x), y: round(y) };
  };
  const rounded = ({ x, y, width, height }) => ({
    x: round(x),
    y: round(y),
    width: round(width),
    height: round(height),
  });
  const layout = (el) => {
    const rect = el.getBoundingClientRect();
    const box = rounded(rect);
    const visible =
      rect.width > 0 && rect.height > 0 && el.checkVisibility({ visibilityProperty: true, opacityProperty: true });
    const left = Math.max(rect.left, 0);
    const right = Math.min(rect.right, innerWidth);
    const top = Math.max(rect.top, 0);
    const bottom = Math.min(rect.bottom, innerHeight);
    const inView = right > left && bottom > top;
    let coveredBy = null;
    if (visible && inView) {
      const hit = document.elementFromPoint((left + right) / 2, (top + bottom) / 2);
      if (
        hit &&
        hit !== el &&
        !el.contains(hit) &&
        !hit.contains(el) &&
        !(el.labels && [...el.labels].some((l) => l.contains(hit)))
      ) {
        coveredBy = describe(hit);
      } else if (
        hit &&
        hit !== el &&
        hit.contains(el) &&
        hit.shadowRoot == null &&
        getComputedStyle(el).pointerEvents === 'none'
      ) {
        coveredBy = describe(hit);
      }
    }
    return framed ? { box, visible, inView, coveredBy, offset: offset() } : { box, visible, inView, coveredBy };
  };
  // Its box alone: on a page that is laid out already this costs next to nothing.
  const boxOf = (el) => rounded(el.getBoundingClientRect());
  return { framed, offset, layout, boxOf };
};
