import type { Strategy } from "#core/documents";

/** Values that an address asks for (`set=fast:20,slow:100`); what is no number is passed over. */
export function valuesOf(text: string | null): Record<string, number> {
  return Object.fromEntries(
    (text ?? "")
      .split(",")
      .map((item) => item.split(":") as [string, string | undefined])
      .filter(([, value]) => value !== undefined && value !== "" && Number.isFinite(Number(value)))
      .map(([name, value]) => [name, Number(value)]),
  );
}

/** A strategy with other values of its parameters (yes is 1), and other variants of its definitions by their number. */
export function withValues(strategy: Strategy, values: Readonly<Record<string, number>>): Strategy {
  if (Object.keys(values).length === 0) return strategy;
  return {
    ...strategy,
    ...(strategy.parameters && {
      parameters: strategy.parameters.map((parameter) =>
        parameter.name in values
          ? { ...parameter, value: parameter.kind === "yesNo" ? values[parameter.name] === 1 : values[parameter.name] }
          : parameter,
      ),
    }),
    ...(strategy.definitions && {
      definitions: strategy.definitions.map((definition) =>
        definition.variants && definition.name in values ? { ...definition, chosen: values[definition.name] } : definition,
      ),
    }),
  };
}
