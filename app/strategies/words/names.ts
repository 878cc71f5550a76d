import type { LibraryDefinition } from "#core/library";
import type { Strategy } from "#core/documents";
import { checkRule, EMPTY_SCOPE } from "#core/rules";

/** What may stand in a sentence beside the notation's own names. */
export interface Names {
  parameters: readonly string[];
  definitions: readonly { name: string; kind: "number" | "yesno"; rule: string }[];
  library: readonly LibraryDefinition[];
  /** names that stand for settings */
  settings: ReadonlySet<string>;
}

/** The names of a strategy; a definition's kind is told by what can be read of it so far. */
export function namesOf(strategy: Strategy, library: readonly LibraryDefinition[]): Names {
  const parameters = (strategy.parameters ?? []).map((parameter) => parameter.name);
  const kinds = new Map((strategy.parameters ?? []).map((parameter) => [parameter.name, { kind: parameter.kind }]));
  const values = Object.fromEntries((strategy.parameters ?? []).map((parameter) => [parameter.name, Number(parameter.value)]));
  const known = new Map<string, NonNullable<ReturnType<typeof checkRule>["formula"]>>();
  const definitions = (strategy.definitions ?? []).map(({ name, rule, variants, chosen }) => {
    const text = rule ?? variants?.[(chosen ?? 1) - 1]?.rule ?? "";
    const { formula } = checkRule(text, { ...EMPTY_SCOPE, parameters: kinds, definitions: known, values });
    if (formula !== null) known.set(name, formula);
    return { name, kind: formula?.kind ?? ("yesno" as const), rule: text };
  });
  return { parameters, definitions, library, settings: new Set(parameters) };
}
