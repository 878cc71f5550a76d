import type { Distance, Figure, Side, Strategy } from "#core/documents";
import { mentions, renameIn } from "#core/rules";

/** A strategy in which every formula and figure went through a change. */
function throughFormulas(strategy: Strategy, rule: (text: string) => string, figure: (given: Figure) => Figure): Strategy {
  const distance = (given: Distance): Distance => ({
    ...given,
    value: given.unit === "price" && typeof given.value === "string" ? rule(given.value) : figure(given.value),
    ...(given.period === undefined ? {} : { period: figure(given.period) }),
  });
  const figures = <T extends object>(given: T): T =>
    Object.fromEntries(Object.entries(given).map(([key, value]) => [key, key === "unit" ? value : figure(value as Figure)])) as T;
  const side = (given: Side): Side => ({
    ...(given.enter && {
      enter: {
        ...given.enter,
        when: rule(given.enter.when),
        ...(given.enter.order && {
          order:
            given.enter.order.type === "market" || given.enter.order.price === undefined
              ? given.enter.order
              : { ...given.enter.order, price: rule(given.enter.order.price) },
        }),
      },
    }),
    ...(given.exit && { exit: { ...given.exit, when: rule(given.exit.when) } }),
  });
  const { protect, sizing } = strategy;
  return {
    ...strategy,
    ...(strategy.definitions && {
      definitions: strategy.definitions.map((definition) => ({
        ...definition,
        ...(definition.rule === undefined ? {} : { rule: rule(definition.rule) }),
        ...(definition.variants && { variants: definition.variants.map((variant) => ({ ...variant, rule: rule(variant.rule) })) }),
      })),
    }),
    ...(strategy.long && { long: side(strategy.long) }),
    ...(strategy.short && { short: side(strategy.short) }),
    ...(protect && {
      protect: {
        ...protect,
        ...(protect.stop && { stop: distance(protect.stop) }),
        ...(protect.target && { target: distance(protect.target) }),
        ...(protect.trail && { trail: figures(protect.trail) }),
        ...(protect.breakeven && { breakeven: figures(protect.breakeven) }),
        ...(protect.maxBarsHeld === undefined ? {} : { maxBarsHeld: figure(protect.maxBarsHeld) }),
      },
    }),
    sizing: {
      ...sizing,
      ...(sizing.value === undefined ? {} : { value: figure(sizing.value) }),
      ...(sizing.period === undefined ? {} : { period: figure(sizing.period) }),
    },
    ...(strategy.priority === undefined ? {} : { priority: rule(strategy.priority) }),
  };
}

/** Gives a parameter or definition another name, at its place and in every formula and figure that names it. */
export function renameEverywhere(strategy: Strategy, from: string, to: string): Strategy {
  const renamed = throughFormulas(
    strategy,
    (text) => renameIn(text, from, to),
    (figure) => (figure === from ? to : figure),
  );
  const named = <T extends { name: string }>(one: T): T => (one.name === from ? { ...one, name: to } : one);
  return {
    ...renamed,
    ...(renamed.parameters && { parameters: renamed.parameters.map(named) }),
    ...(renamed.definitions && { definitions: renamed.definitions.map(named) }),
  };
}

/** How many formulas and figures name a parameter or definition. */
export function usesOf(strategy: Strategy, name: string): number {
  let uses = 0;
  throughFormulas(
    strategy,
    (text) => {
      if (mentions(text, name)) uses++;
      return text;
    },
    (figure) => {
      if (figure === name) uses++;
      return figure;
    },
  );
  return uses;
}
