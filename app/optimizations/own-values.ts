import type { Strategy } from "#core/documents";

/** Values of every parameter as numbers (yes is 1), and the chosen variant of every definition that has some. */
export function ownValues(strategy: Strategy): Record<string, number> {
  return Object.fromEntries([
    ...(strategy.parameters ?? []).map(({ name, value }) => [name, Number(value)] as const),
    ...(strategy.definitions ?? []).flatMap(({ name, variants = [], chosen }) =>
      variants.length < 2 ? [] : [[name, chosen ?? 1] as const],
    ),
  ]);
}
