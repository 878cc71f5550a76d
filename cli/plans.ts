import type { DocumentProblem } from "#core/documents";
import { optimize, prepareSearch, readOptimization, searchSettings } from "#core/optimize";
import { fitWeights, readPortfolio, runPortfolio, withWeights, type Member } from "#core/portfolio";
import { readWalkForward, Walker, walkForwardMap } from "#core/walk-forward";
import { InputError, problemLines, readDocument, writeOut } from "./files";
import { settingsInPlan, strategyInPlan, type PlanOptions } from "./in-plan";

/** The value of an outcome, or the end of the command with everything that is wrong. */
function orEnd<T>(file: string, { value, problems }: { value: T | null; problems: readonly DocumentProblem[] }): T {
  if (value === null) throw new InputError(problemLines(file, problems));
  return value;
}

/** `canyon optimize`: gives `canyon.trials/1`. */
export function optimizeCommand(options: PlanOptions): void {
  const { strategy, settings: given, from, to, ...search } = readDocument(options.plan, readOptimization);
  const own = strategyInPlan(options, strategy);
  const { settings, bars } = settingsInPlan(options, given);
  const prepared = orEnd(options.plan, prepareSearch(own, searchSettings(settings, from, to), search, bars));
  writeOut(options.out, JSON.stringify(optimize(prepared)) + "\n");
}

/** `canyon walk-forward`: gives `canyon.walk-forward-result/1`, of one walk or of a map. */
export function walkForwardCommand(options: PlanOptions): void {
  const plan = readDocument(options.plan, readWalkForward);
  const strategy = strategyInPlan(options, plan.strategy);
  const { settings, bars } = settingsInPlan(options, plan.settings);
  const walker = orEnd(options.plan, Walker.prepare(strategy, settings, plan, bars));
  const result = plan.map ? walkForwardMap(walker, plan) : walker.walk(plan.windows[0], plan.outShare[0]);
  writeOut(options.out, JSON.stringify(result) + "\n");
}

/** The members of a portfolio's plan with their weights, and what they run on. */
export function membersInPlan(options: PlanOptions) {
  const plan = readDocument(options.plan, readPortfolio);
  const { settings, bars } = settingsInPlan(options, plan.settings);
  const members = plan.members.map((member, i): Member => {
    const strategy = strategyInPlan(options, member.strategy, `members[${i}].strategy`);
    const { markets, marketLimit, weight = 0 } = member;
    return { name: member.name ?? strategy.name ?? `member ${i + 1}`, strategy, markets, marketLimit, weight };
  });
  const fitted = orEnd(options.plan, fitWeights(members, plan.weights, settings, bars));
  return { members: withWeights(members, fitted), fitted, settings, bars };
}

/** `canyon portfolio`: gives `canyon.result/1` with what a portfolio adds. */
export function portfolioCommand(options: PlanOptions): void {
  const { members, fitted, settings, bars } = membersInPlan(options);
  const { result, problems } = runPortfolio(members, settings, bars);
  if (result === null) throw new InputError(problemLines(options.plan, problems));
  writeOut(options.out, JSON.stringify(fitted.length === 1 ? result : { ...result, weightsAlong: fitted }) + "\n");
}
