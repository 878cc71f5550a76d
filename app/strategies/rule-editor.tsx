import { closeBrackets } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap, placeholder } from "@codemirror/view";
import { useEffect, useId, useRef } from "react";
import type { RuleProblem } from "#core/rules";
import { ruleLanguage } from "./rule-language";

interface RuleEditorProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  problems: readonly RuleProblem[];
  /** parameters and definitions that the formula may use */
  names: readonly { label: string; detail: string }[];
  hint?: string;
}

/** A formula as text: highlighted, completed, its errors marked at their place while it is typed. */
export function RuleEditor({ label, value, onChange, problems, names, hint = "" }: RuleEditorProps) {
  const id = useId();
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const latest = useRef({ onChange, names });
  latest.current = { onChange, names };

  useEffect(() => {
    const own = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: value,
        extensions: [
          history(),
          closeBrackets(),
          keymap.of([...defaultKeymap, ...historyKeymap]),
          EditorView.lineWrapping,
          placeholder(hint),
          ruleLanguage(() => [...latest.current.names]),
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
  return (
    <div>
      <div ref={host} className={`rounded-[4px] border bg-sheet ${first ? "border-clay" : "border-edge focus-within:border-ink-faint"}`} />
      <p id={`${id}-problem`} role={first ? "alert" : undefined} className="text-sm text-clay empty:hidden">
        {first ? `${first.line > 1 ? `Line ${first.line}, c` : "C"}olumn ${first.column}: ${first.message}` : ""}
      </p>
    </div>
  );
}
