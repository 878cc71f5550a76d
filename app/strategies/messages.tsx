import type { StrategyProblem } from "#core/engine";

/** What is wrong at a place of the strategy, right below it. Problems inside a formula stand with the formula. */
export function Messages({ problems, path }: { problems: readonly StrategyProblem[]; path: string }) {
  return problems
    .filter((problem) => (problem.path === path || problem.path.startsWith(`${path}.`)) && problem.rule === undefined)
    .map((problem, i) => (
      <p key={i} role="alert" className="text-sm text-clay">
        {problem.message}
      </p>
    ));
}
