import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { HighlightStyle, LanguageSupport, LRLanguage, syntaxHighlighting } from "@codemirror/language";
import { styleTags, tags } from "@lezer/highlight";
import { EXTRA, FUNCTIONS, parseRule, SERIES } from "#core/rules";
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

/** Completion of series, functions, parameters and definitions, with what each means. */
function complete(names: () => { label: string; detail: string }[]) {
  return (context: CompletionContext): CompletionResult | null => {
    const word = context.matchBefore(/[A-Za-z]\w*/);
    if (word === null && !context.explicit) return null;
    return {
      from: word?.from ?? context.pos,
      options: [
        ...names().map(({ label, detail }) => ({ label, detail, type: "variable", boost: 2 })),
        ...[...SERIES].map(([label, { definition }]) => ({ label, detail: "series", info: definition, type: "constant", boost: 1 })),
        {
          label: EXTRA,
          detail: `${EXTRA}("backlog")`,
          info: "An extra series of the market: the last value whose date is not after the bar's end.",
          type: "function",
        },
        ...[...FUNCTIONS.values()].map((entry) => ({ label: entry.name, detail: entry.example, info: entry.definition, type: "function" })),
        ...WORDS.map((label) => ({ label, type: "keyword", boost: -1 })),
      ],
      validFor: /^\w*$/,
    };
  };
}

/** The notation for the editor: highlighting and completion on the checker's own grammar. */
export function ruleLanguage(names: () => { label: string; detail: string }[]) {
  return [new LanguageSupport(language), syntaxHighlighting(highlight), autocompletion({ override: [complete(names)], icons: false })];
}
