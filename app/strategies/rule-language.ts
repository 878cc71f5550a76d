import { autocompletion, type Completion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { HighlightStyle, LanguageSupport, LRLanguage, syntaxHighlighting } from "@codemirror/language";
import type { EditorView } from "@codemirror/view";
import { styleTags, tags } from "@lezer/highlight";
import { EXTRA, FUNCTIONS, parseRule, POSITION, SERIES } from "#core/rules";
import { parser } from "../../core/rules/language/parser.js";

// the checker's module fills the set of function names that the tokenizer asks
void parseRule;

const language = LRLanguage.define({
  name: "rule",
  parser: parser.configure({
    props: [
      styleTags({
        "and or not throughout somewhere in from to crosses above below is rising falling back of on if": tags.keyword,
        FunctionName: tags.function(tags.variableName),
        Name: tags.variableName,
        "Number Clock Duration": tags.number,
        Comment: tags.lineComment,
        "String QuotedSymbol": tags.string,
        CompareOp: tags.operator,
      }),
    ],
  }),
  languageData: { commentTokens: { line: "#" } },
});

const highlight = HighlightStyle.define([
  { tag: tags.keyword, color: "var(--plum)" },
  { tag: tags.function(tags.variableName), color: "var(--river)" },
  { tag: tags.number, color: "var(--ochre-ink)" },
  { tag: tags.lineComment, color: "var(--ink-soft)", fontStyle: "italic" },
  { tag: tags.string, color: "var(--moss-ink)" },
]);

const WORDS = "and or not throughout somewhere from to crosses above below is rising falling back if".split(" ");

/** A parameter or definition of the strategy. */
export interface KnownName {
  label: string;
  detail: string;
  info?: string;
}

/** Completion of series, functions, parameters and definitions, with what each means. */
function complete(names: () => readonly KnownName[]) {
  return (context: CompletionContext): CompletionResult | null => {
    const word = context.matchBefore(/[A-Za-z]\w*/);
    if (word === null && !context.explicit) return null;
    return {
      from: word?.from ?? context.pos,
      options: [
        ...names().map(({ label, detail, info }) => ({
          label,
          detail,
          ...(info === undefined ? {} : { info }),
          type: "variable",
          boost: 2,
        })),
        ...[...POSITION].map(([label, { definition }]) => ({ label, detail: "position", info: definition, type: "constant" })),
        ...[...SERIES].map(([label, { definition }]) => ({ label, detail: "series", info: definition, type: "constant", boost: 1 })),
        {
          label: EXTRA,
          detail: `${EXTRA}("backlog")`,
          info: "An extra series of the market: the last value whose date is not after the bar's end.",
          type: "function",
        },
        ...[...FUNCTIONS.values()].map((entry) => ({
          label: entry.name,
          detail: entry.example,
          info: `${entry.definition}${entry.source === undefined ? "" : ` (${entry.source})`}`,
          apply: (view: EditorView, _choice: Completion, from: number, to: number) => {
            // the brackets come along, the cursor between them
            const bracket = view.state.sliceDoc(to, to + 1) === "(" ? "" : "()";
            view.dispatch({ changes: { from, to, insert: entry.name + bracket }, selection: { anchor: from + entry.name.length + 1 } });
          },
          type: "function",
        })),
        ...WORDS.map((label) => ({ label, type: "keyword", boost: -1 })),
      ],
      validFor: /^\w*$/,
    };
  };
}

/** The notation for the editor: highlighting and completion on the checker's own grammar. */
export function ruleLanguage(names: () => readonly KnownName[]) {
  return [new LanguageSupport(language), syntaxHighlighting(highlight), autocompletion({ override: [complete(names)], icons: false })];
}
