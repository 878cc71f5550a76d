import { checkShape, exact, formatKey, list, oneOf, text, withoutNulls, type Read } from "#core/documents";
import { checkRule, EMPTY_SCOPE, nameFault } from "#core/rules";

export const DEFINITION_KINDS = ["trigger", "filter", "regime", "pattern"] as const;
export type DefinitionKind = (typeof DEFINITION_KINDS)[number];

/** A named formula that strategies can take over: what it is for, and its text in the notation. */
export interface LibraryDefinition {
  name: string;
  kind: DefinitionKind;
  title: string;
  about: string;
  rule: string;
}

/** `canyon.definitions/1`: definitions to be shared as a file. */
export interface DefinitionsFile {
  format: "canyon.definitions/1";
  definitions: LibraryDefinition[];
}

export const definitionsSchema = exact(
  {
    format: formatKey("canyon.definitions/1"),
    definitions: list(
      exact(
        {
          name: text().required(),
          kind: oneOf(DEFINITION_KINDS).required(),
          title: text().required(),
          about: text(),
          rule: text().required(),
        },
        "a definition",
      ),
    ).required(),
  },
  "a file of definitions",
);

/** What is wrong with a definition's name or formula, each with its key. */
export function definitionProblems(definition: LibraryDefinition): { path: string; message: string }[] {
  const problems: { path: string; message: string }[] = [];
  const name = nameFault(definition.name);
  if (name !== null) problems.push({ path: "name", message: name });
  for (const { line, column, message } of checkRule(definition.rule, EMPTY_SCOPE).problems)
    problems.push({ path: "rule", message: `line ${line}, column ${column}: ${message}` });
  return problems;
}

/** Reads a file of definitions; every formula is checked. */
export function readDefinitions(given: unknown): Read<DefinitionsFile> {
  const problems = checkShape(definitionsSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const bare = withoutNulls(given) as DefinitionsFile;
  const value: DefinitionsFile = { format: bare.format, definitions: bare.definitions.map((one) => ({ ...one, about: one.about ?? "" })) };
  value.definitions.forEach((definition, i) => {
    for (const { path, message } of definitionProblems(definition)) problems.push({ path: `definitions[${i}].${path}`, message });
    if (value.definitions.findIndex((other) => other.name === definition.name) < i)
      problems.push({ path: `definitions[${i}].name`, message: `the name “${definition.name}” is given twice` });
  });
  return problems.length > 0 ? { value: null, problems } : { value, problems: [] };
}
