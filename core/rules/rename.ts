/**
 * A formula's text with a parameter or definition under another name. Works on text that can't be read yet, too: names are
 * told apart by what stands around them (parts, symbols, comments and texts in quotes stay).
 */
export function renameIn(text: string, from: string, to: string): string {
  let before = "";
  return text.replace(/#[^\n]*|"[^"\n]*"|[A-Za-z][A-Za-z0-9_]*|\d+(?:\.\d+)?[A-Za-z]*|\s+|./g, (token) => {
    if (/^\s/.test(token)) return token;
    const own = token === from && before !== "." && before !== "of";
    before = token;
    return own ? to : token;
  });
}

/** Whether a name stands in a formula's text. */
export const mentions = (text: string, name: string): boolean => renameIn(text, name, `${name}_`) !== text;
