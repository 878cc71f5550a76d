import { dirname, resolve } from "node:path";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { InputError, problemLines, readBars, readDocument, readSeries, writeOut } from "./files";

export function backtestCommand(options: { strategy: string; settings: string; out?: string }): void {
  const strategy = readDocument(options.strategy, readStrategy);
  const settings = readDocument(options.settings, readSettings);
  const folder = dirname(options.settings);
  for (const market of settings.markets)
    for (const [name, file] of Object.entries(market.series ?? {}))
      if (typeof file === "string") market.series![name] = readSeries(resolve(folder, file), market.symbol);
  const bars = settings.markets.map((market) => readBars(resolve(dirname(options.settings), market.bars)));
  const { result, problems } = backtest(strategy, settings, bars);
  if (result === null)
    throw new InputError(
      problems.flatMap((problem) => problemLines(problem.in === "strategy" ? options.strategy : options.settings, [problem])),
    );
  writeOut(options.out, JSON.stringify(result) + "\n");
}
