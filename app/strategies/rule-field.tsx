import { createContext, useContext } from "react";
import type { StrategyProblem } from "#core/engine";
import { RuleEditor, type RuleReading } from "./rule-editor";
import type { Names } from "./words/names";
import { SentenceRule } from "./words/sentence-rule";

/** How rules are shown, and what all of them share on a page. */
export interface RuleForm {
  form: "words" | "text";
  setForm: (form: "words" | "text") => void;
  names: Names;
  problems: readonly StrategyProblem[];
  /** the value of a name at the selected bar, for the editor's hover; null where there is none */
  reading: RuleReading;
  rename: (from: string) => void;
}

export const RuleFormContext = createContext<RuleForm | null>(null);

export function useRuleForm(): RuleForm {
  const form = useContext(RuleFormContext);
  if (form === null) throw new Error("a rule needs a form around it");
  return form;
}

interface RuleFieldProps {
  label: string;
  path: string;
  value: string;
  onChange: (value: string) => void;
  hint?: string;
  /** what the sentence form says where there is no rule */
  never?: string;
  /** a rule says yes or no; a value is a number, and is always written as text */
  kind?: "rule" | "value";
}

/** One formula: as sentences or as text, the same tree in both. */
export function RuleField({ label, path, value, onChange, hint = "", never = "never", kind = "rule" }: RuleFieldProps) {
  const { form, setForm, names, problems, reading, rename } = useRuleForm();
  const own = problems.filter((problem) => problem.path === path && problem.rule).map((problem) => problem.rule!);
  if (form === "words" && kind === "rule")
    return (
      <SentenceRule
        label={label}
        value={value}
        onChange={onChange}
        names={names}
        problems={own}
        never={never}
        onText={() => setForm("text")}
      />
    );
  return (
    <RuleEditor
      label={label}
      value={value}
      hint={hint}
      names={[
        ...names.parameters.map((name) => ({ label: name, detail: "parameter" })),
        ...names.definitions.map((one) => ({ label: one.name, detail: "definition", info: one.rule })),
      ]}
      problems={own}
      onChange={onChange}
      reading={reading}
      onRename={rename}
    />
  );
}
