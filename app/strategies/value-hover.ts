import type { EditorState, Extension } from "@codemirror/state";
import { hoverTooltip } from "@codemirror/view";
import { FUNCTIONS, POSITION, SERIES, type PositionName } from "#core/rules";
import type { RuleReading } from "./rule-editor";

/** The name at a place of the text, or null. */
export function nameAt(state: EditorState, place: number): { text: string; from: number; to: number } | null {
  const text = state.doc.toString();
  let [from, to] = [place, place];
  while (from > 0 && /\w/.test(text[from - 1])) from--;
  while (to < text.length && /\w/.test(text[to])) to++;
  const word = text.slice(from, to);
  return /^[A-Za-z]\w*$/.test(word) ? { text: word, from, to } : null;
}

/** The text of the call that a function's name begins, brackets and part included. */
function wholeCall(text: string, from: number, to: number): string {
  let depth = 0;
  for (let i = to; i < text.length; i++) {
    if (text[i] === "(") depth++;
    if (text[i] === ")" && --depth === 0) return text.slice(from, i + 1) + (/^\.\w+/.exec(text.slice(i + 1))?.[0] ?? "");
    if (depth === 0 && !/\s/.test(text[i])) break;
  }
  return text.slice(from, to);
}

/** Tells, over a name, what it means and its value at the selected bar. */
export function valueHover(reading: () => RuleReading): Extension {
  return hoverTooltip(async (view, place) => {
    const found = nameAt(view.state, place);
    if (found === null) return null;
    const entry = FUNCTIONS.get(found.text);
    const text = entry === undefined ? found.text : wholeCall(view.state.doc.toString(), found.from, found.to);
    const about = entry?.definition ?? SERIES.get(found.text)?.definition ?? POSITION.get(found.text as PositionName)?.definition;
    const read = reading();
    const value = read === null ? null : await read(text);
    if (about === undefined && value === null) return null;
    return {
      pos: found.from,
      end: found.to,
      above: true,
      create: () => {
        const dom = document.createElement("div");
        dom.className = "cm-argument-hint";
        if (value !== null) {
          const line = dom.appendChild(document.createElement("p"));
          const strong = line.appendChild(document.createElement("strong"));
          strong.textContent = `${text} = ${value.value}`;
          line.append(` ${value.at}`);
        }
        if (about !== undefined) dom.appendChild(document.createElement("p")).textContent = about;
        return { dom };
      },
    };
  });
}
