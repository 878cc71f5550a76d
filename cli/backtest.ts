import { dirname, resolve } from "node:path";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { InputError, problemLines, readBars, readDocument, writeOut } from "./files";

export function backtestCommand(options: { strategy: string; settings: string; out?: string }): void {
  const strategy = readDocument(options.strategy, readStrategy);
  const settings = readDocument(options.settings, readSettings);
  const bars = settings.markets.map((market) => readBars(resolve(dirname(options.settings), market.bars)));
  const { result, problems } = backtest(strategy, settings, bars);
  if (result === null)
    throw new InputError(
      problems.flatMap((problem) => problemLines(problem.in === "strategy" ? options.strategy : options.settings, [problem])),
    );
  writeOut(options.out, JSON.stringify(result) + "\n");
}
