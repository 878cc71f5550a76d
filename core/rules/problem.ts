/** What is wrong with a formula: the place (offsets from 0, line and column from 1) and a sentence for a trader. */
export interface RuleProblem {
  from: number;
  to: number;
  line: number;
  column: number;
  length: number;
  message: string;
  /** a change of the text that may be what was meant */
  fix?: RuleFix;
}

export interface RuleFix {
  from: number;
  to: number;
  insert: string;
}

/** Makes a problem out of a stretch of the text. */
export function problemAt(text: string, from: number, to: number, message: string, fix?: RuleFix): RuleProblem {
  const before = text.slice(0, from);
  const line = before.split("\n").length;
  const column = from - (before.lastIndexOf("\n") + 1) + 1;
  return { from, to, line, column, length: Math.max(1, to - from), message, ...(fix === undefined ? {} : { fix }) };
}

/** The nearest of `names` to a misspelt one, by edit distance (at most two fifths of its length, at least 1), or null. */
export function nearest(word: string, names: Iterable<string>): string | null {
  let best: string | null = null;
  let least = Math.max(1, Math.round(word.length * 0.4)) + 1;
  for (const name of names) {
    const distance = editDistance(word.toLowerCase(), name.toLowerCase());
    if (distance < least) {
      least = distance;
      best = name;
    }
  }
  return best;
}

/** Levenshtein's distance (1966): the least number of inserted, deleted and replaced letters. */
function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) next[j] = Math.min(next[j - 1] + 1, row[j] + 1, row[j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1));
    row = next;
  }
  return row[b.length];
}
