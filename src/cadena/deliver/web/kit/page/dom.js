// Elements as values, and making the page agree with them: what stays, stays the very same.

const SVG = 'http://www.w3.org/2000/svg';
const kept = new WeakMap();

/**
 * An element that is wanted. Of `props`, `on…` are listeners, `style` a dictionary, `key` tells
 * it from its siblings; true is an attribute without a value, null, undefined and false is none.
 * @param {string} tag
 * @param {Record<string, any>} [props]
 * @param {...any} children
 * @returns {Made}
 */
export function h(tag, props = {}, ...children) {
  const some = children
    .flat(Infinity)
    .filter((each) => each !== null && each !== undefined && each !== false);
  return {
    tag,
    props: tag === 'button' ? { type: 'button', ...props } : props,
    children: some.map((each) => (typeof each === 'object' ? each : String(each))),
  };
}

/** A length in units of the text: so many dp. @param {number} dp */
export const rem = (dp) => `${dp / 16}rem`;

/** Where something lies, from where reading begins. @param {{x?: number, y?: number, width?: number, height?: number}} place */
export function placed({ x, y, width, height }) {
  return {
    ...(x !== undefined && { 'inset-inline-start': rem(x) }),
    ...(y !== undefined && { top: rem(y) }),
    ...(width !== undefined && { width: rem(width) }),
    ...(height !== undefined && { height: rem(height) }),
  };
}

/** Make the children of an element what is wanted. @param {Element} parent @param {(Made | string)[]} wanted */
export function patch(parent, wanted) {
  const there = [...parent.childNodes];
  const byKey = new Map(
    there
      .filter((node) => kept.get(node)?.key !== undefined)
      .map((node) => [kept.get(node).key, node]),
  );
  const used = new Set();
  const plain = there.filter((node) => kept.get(node)?.key === undefined);
  const nodes = wanted.map((each) => {
    const key = typeof each === 'string' ? undefined : each.props.key;
    const tag = typeof each === 'string' ? '#text' : each.tag;
    const known =
      key === undefined
        ? plain.find((node) => !used.has(node) && node.nodeName.toLowerCase() === tag)
        : byKey.get(key);
    const isSame = known && !used.has(known) && known.nodeName.toLowerCase() === tag;
    const node = isSame ? known : made(each, parent);
    used.add(node);
    if (typeof each === 'string') {
      if (node.nodeValue !== each) node.nodeValue = each;
    } else {
      update(/** @type {Element} */ (node), each);
    }
    return node;
  });
  for (const node of there) if (!used.has(node)) node.remove();
  nodes.forEach((node, at) => {
    if (parent.childNodes[at] !== node) parent.insertBefore(node, parent.childNodes[at] ?? null);
  });
}

/** @param {Made | string} each @param {Element} parent @returns {Node} */
function made(each, parent) {
  if (typeof each === 'string') return document.createTextNode(each);
  const isDrawn = each.tag === 'svg' || parent.namespaceURI === SVG;
  return isDrawn ? document.createElementNS(SVG, each.tag) : document.createElement(each.tag);
}

/** @param {Element} element @param {Made} wanted */
function update(element, wanted) {
  const before = kept.get(element)?.props ?? {};
  kept.set(element, { key: wanted.props.key, props: wanted.props });
  for (const name of Object.keys(before)) if (!(name in wanted.props)) setProp(element, name, null);
  for (const [name, value] of Object.entries(wanted.props)) {
    if (name === 'style' || name === 'value' || before[name] !== value)
      setProp(element, name, value);
  }
  patch(element, wanted.children);
}

/** @param {any} element @param {string} name @param {any} value */
function setProp(element, name, value) {
  if (name === 'key') return;
  if (name.startsWith('on')) {
    element[name] = value;
  } else if (name === 'style') {
    const now = value ?? {};
    for (const each of [...element.style])
      if (!(each in now) && !each.startsWith('--')) element.style.removeProperty(each);
    for (const [each, to] of Object.entries(now))
      if (element.style.getPropertyValue(each) !== to) element.style.setProperty(each, to);
  } else if (name === 'value') {
    // The caret stays where the person has it.
    if (element.value !== (value ?? '')) element.value = value ?? '';
  } else if (value === null || value === undefined || value === false) {
    element.removeAttribute(name);
  } else {
    element.setAttribute(name, value === true ? '' : String(value));
  }
}

/** Whether the person reads from the right, by the language that they have chosen. */
export function isRightToLeft() {
  try {
    const locale = /** @type {any} */ (new Intl.Locale(navigator.language));
    return (locale.getTextInfo?.() ?? locale.textInfo)?.direction === 'rtl';
  } catch {
    // What the system calls a language is not always one.
    return false;
  }
}

/** A picture that lies beside the app; others are not asked for. @param {any} value */
export function pictureFile(value) {
  if (typeof value !== 'string' || value === '') return '';
  if (/^https?:\/\//i.test(value)) return URL.canParse(value) ? new URL(value).href : '';
  return /^[a-z][a-z0-9+.-]*:|^\/|^\\|\.\./i.test(value) ? '' : encodeURI(value);
}
