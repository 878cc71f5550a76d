import { closeBrackets } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap, placeholder } from "@codemirror/view";
import { useEffect, useId, useRef } from "react";
import { formatRule, parseRule, type RuleProblem } from "#core/rules";
import { argumentHints } from "./argument-hints";
import { nameAt, valueHover } from "./value-hover";
import { ruleLanguage, type KnownName } from "./rule-language";

/** The value of a piece of a rule at the selected bar, as text; null where there is none to tell. */
export type RuleReading = ((text: string) => Promise<{ value: string; at: string } | null>) | null;

interface RuleEditorProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  problems: readonly RuleProblem[];
  /** parameters and definitions that the formula may use */
  names: readonly KnownName[];
  hint?: string;
  reading?: RuleReading;
  /** asked to rename a parameter or definition everywhere */
  onRename?: (name: string) => void;
}

/** Writes the formula as the notation would; text that can't be read, and text with comments, stays. */
function format(view: EditorView): boolean {
  const text = view.state.doc.toString();
  const { tree } = parseRule(text);
  if (tree === null || text.includes("#")) return true;
  const next = formatRule(tree);
  if (next !== text) view.dispatch({ changes: { from: 0, to: text.length, insert: next } });
  return true;
}

/** A formula as text: highlighted, completed, with argument hints, its errors marked with a fix while it is typed. */
export function RuleEditor({ label, value, onChange, problems, names, hint = "", reading = null, onRename }: RuleEditorProps) {
  const id = useId();
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const latest = useRef({ onChange, names, reading, onRename });
  latest.current = { onChange, names, reading, onRename };

  useEffect(() => {
    const rename = (own: EditorView): boolean => {
      const found = nameAt(own.state, own.state.selection.main.head);
      if (found === null || !latest.current.names.some((name) => name.label === found.text)) return false;
      latest.current.onRename?.(found.text);
      return true;
    };
    const own = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: value,
        extensions: [
          history(),
          closeBrackets(),
          keymap.of([{ key: "Shift-Alt-f", run: format }, { key: "F2", run: rename }, ...defaultKeymap, ...historyKeymap]),
          EditorView.lineWrapping,
          placeholder(hint),
          ruleLanguage(() => latest.current.names),
          argumentHints(),
          valueHover(() => latest.current.reading),
          EditorView.contentAttributes.of({ "aria-label": label, "aria-describedby": `${id}-problem` }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) latest.current.onChange(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = own;
    return () => own.destroy();
    // made once; what changes later reaches it through the effects below
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  useEffect(() => {
    const own = view.current;
    if (own !== null && own.state.doc.toString() !== value) own.dispatch({ changes: { from: 0, to: own.state.doc.length, insert: value } });
  }, [value]);

  useEffect(() => {
    const own = view.current;
    if (own === null) return;
    const end = own.state.doc.length;
    own.dispatch(
      setDiagnostics(
        own.state,
        problems.map((problem) => ({
          from: Math.min(problem.from, end),
          to: Math.min(Math.max(problem.to, problem.from + 1), end),
          severity: "error" as const,
          message: problem.message,
        })),
      ),
    );
  }, [problems]);

  const [first] = problems;
  const fix = first?.fix;
  const apply = () => {
    if (fix === undefined || view.current === null) return;
    view.current.dispatch({
      changes: { from: fix.from, to: fix.to, insert: fix.insert },
      selection: { anchor: fix.from + fix.insert.length },
    });
    view.current.focus();
  };
  return (
    <div>
      <div ref={host} className={`rounded-[4px] border bg-sheet ${first ? "border-clay" : "border-edge focus-within:border-ink-faint"}`} />
      <p id={`${id}-problem`} role={first ? "alert" : undefined} className="text-sm text-clay empty:hidden">
        {first ? `${first.line > 1 ? `Line ${first.line}, c` : "C"}olumn ${first.column}: ${first.message}` : ""}
        {fix !== undefined && (
          <button type="button" onClick={apply} className="quiet-link ml-1.5 text-ink">
            write <span className="figure-text">{fix.insert.trim()}</span>
          </button>
        )}
      </p>
    </div>
  );
}
