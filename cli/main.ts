import { Command, CommanderError } from "commander";
import { backtestCommand } from "./backtest";
import { barsCommand } from "./bars";
import { InputError } from "./files";
import { metricsCommand } from "./metrics";
import { ordersCommand } from "./orders";
import { optimizeCommand, portfolioCommand, walkForwardCommand } from "./plans";
import { cascadeCommand, probeCommand } from "./probe";
import { ruleCommand } from "./rule";

const program = new Command("canyon")
  .description(
    "Backtests, optimizations, walk-forwards, probes, cascades, portfolios, order sheets, formulas, bars and figures without the interface; `canyon import --help` tells how files of bars get into a data folder. Figures go to standard output or --out; everything else to standard error.",
  )
  .exitOverride()
  .configureOutput({ writeOut: (text) => process.stderr.write(text), outputError: (text) => process.stderr.write(text) });

program
  .command("backtest")
  .description("one run; gives canyon.result/1")
  .requiredOption("--strategy <file>", "canyon.strategy/1")
  .requiredOption("--settings <file>", "canyon.settings/1")
  .option("--out <file>", "where the result goes")
  .action(backtestCommand);

program
  .command("rule")
  .description("a formula's value on each bar, as CSV")
  .requiredOption("--bars <file>", "bars as CSV")
  .requiredOption("--timeframe <timeframe>", "of the bars, such as 1d")
  .requiredOption("--rule <formula>", "the formula")
  .option("--market <file>", "canyon.market/1")
  .option("--with <SYM=file>", "another market's bars", (value: string, before: string[]) => [...before, value], [] as string[])
  .option("--params <list>", "values of parameters: a=1,b=yes")
  .option("--out <file>", "where the values go")
  .action(ruleCommand);

program
  .command("bars")
  .description("bars of a coarser timeframe, as CSV")
  .requiredOption("--bars <file>", "bars as CSV")
  .requiredOption("--timeframe <timeframe>", "of the bars")
  .requiredOption("--to <timeframe>", "wanted")
  .option("--market <file>", "canyon.market/1")
  .option("--out <file>", "where the bars go")
  .action(barsCommand);

program
  .command("metrics")
  .description("the figures of a stored result, recomputed from its trades and equity")
  .requiredOption("--result <file>", "canyon.result/1")
  .option("--out <file>", "where the figures go")
  .action(metricsCommand);

const plans = [
  ["optimize", "trials over ranges of parameters; gives canyon.trials/1", "canyon.optimization/1", optimizeCommand],
  [
    "walk-forward",
    "fits that are repeated along the way, or a map of them; gives canyon.walk-forward-result/1",
    "canyon.walk-forward/1",
    walkForwardCommand,
  ],
  ["probe", "one robustness test with its criteria; gives canyon.probe-result/1", "canyon.probe/1", probeCommand],
  ["cascade", "an ordered set of probes on one strategy; gives canyon.cascade-result/1", "canyon.cascade-plan/1", cascadeCommand],
  ["portfolio", "several strategies on one account; gives canyon.result/1", "canyon.portfolio/1", portfolioCommand],
] as const;
for (const [name, about, format, run] of plans)
  program
    .command(name)
    .description(about)
    .requiredOption("--plan <file>", format)
    .option("--out <file>", "where the result goes")
    .action(run);

program
  .command("orders")
  .description("what a strategy or a portfolio asks for in the next session; gives canyon.orders/1")
  .option("--strategy <file>", "canyon.strategy/1")
  .option("--settings <file>", "canyon.settings/1")
  .option("--plan <file>", "canyon.portfolio/1")
  .option("--csv", "the orders as CSV")
  .option("--out <file>", "where the sheet goes")
  .action(ordersCommand);

try {
  program.parse();
} catch (error) {
  if (error instanceof InputError) {
    for (const line of error.lines) process.stderr.write(`${line}\n`);
    process.exitCode = 1;
  } else if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? 0 : 1;
  } else {
    process.stderr.write(`canyon failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
    process.exitCode = 2;
  }
}
