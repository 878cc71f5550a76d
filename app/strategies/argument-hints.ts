import { syntaxTree } from "@codemirror/language";
import { StateField, type EditorState, type Extension } from "@codemirror/state";
import { showTooltip, type Tooltip } from "@codemirror/view";
import { FUNCTIONS } from "#core/rules";

/** The call around the cursor, and which of its arguments the cursor is in. */
function callAt(state: EditorState): { name: string; from: number; argument: number } | null {
  const { head, empty } = state.selection.main;
  if (!empty) return null;
  const text = state.doc.toString();
  let depth = 0;
  let argument = 0;
  for (let i = head - 1; i >= 0; i--) {
    const letter = text[i];
    if (letter === ")") depth++;
    else if (letter === "," && depth === 0) argument++;
    else if (letter === "(" && depth-- === 0) {
      const word = /[A-Za-z]\w*\s*$/.exec(text.slice(0, i));
      if (word === null) return null;
      const inComment = syntaxTree(state).resolveInner(head, -1).name === "Comment";
      return inComment ? null : { name: word[0].trim(), from: word.index, argument };
    }
  }
  return null;
}

function hint(state: EditorState): Tooltip | null {
  const call = callAt(state);
  const entry = call === null ? undefined : FUNCTIONS.get(call.name);
  if (call === null || entry === undefined) return null;
  const shapes = [
    ...entry.inputs.map((name, i) => ({
      name: entry.yesNo?.includes(i) ? `${name}: a condition` : name,
      optional: i === 0 && entry.closeByDefault,
    })),
    ...entry.settings.map(({ name, default: value }) => ({
      name: value === undefined ? name : `${name} = ${value}`,
      optional: value !== undefined,
    })),
    ...(entry.last === undefined ? [] : [{ name: `${entry.last.name} = ${entry.last.default}`, optional: true }]),
    ...(entry.variadic ? [{ name: "…", optional: true }] : []),
  ];
  return {
    pos: call.from,
    above: true,
    create: () => {
      const dom = document.createElement("div");
      dom.className = "cm-argument-hint";
      const head = dom.appendChild(document.createElement("p"));
      head.append(`${entry.name}(`);
      shapes.forEach((shape, i) => {
        if (i > 0) head.append(", ");
        const one = head.appendChild(document.createElement(i === call.argument ? "strong" : "span"));
        one.textContent = shape.name;
      });
      head.append(`)`);
      const about = dom.appendChild(document.createElement("p"));
      about.textContent = entry.definition;
      return { dom };
    },
  };
}

/** Shows a function's arguments while the cursor is within its brackets, the one being written in bold. */
export function argumentHints(): Extension {
  return StateField.define<Tooltip | null>({
    create: () => null,
    update: (_before, transaction) => hint(transaction.state),
    provide: (field) => showTooltip.from(field),
  });
}
