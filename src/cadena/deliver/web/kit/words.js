// What the app says by itself, in its language (`languages/`).

/**
 * A text as it is said: `said` has it by the text in English, and, where it depends on a number, by
 * the plural categories of CLDR.
 * @param {Words} words @param {string} text @param {Record<string, any>} places
 */
export function saidIn({ language, said }, text, places = {}) {
  const entry = said[text] ?? text;
  const whole =
    typeof entry === 'string'
      ? entry
      : (entry[new Intl.PluralRules(language).select(places.count ?? 0)] ?? entry.other);
  return whole.replace(/\{(\w+)\}/g, (found, name) => String(places[name] ?? found));
}
