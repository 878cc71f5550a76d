import { MarketCalendar, parseTimeframe, resample, resampleFault, writeBarsCsv, type Timeframe } from "#core/bars";
import { readMarket } from "#core/documents";
import { InputError, readBars, readDocument, writeOut } from "./files";

/** Reads a timeframe from an option. */
export function timeframeOption(name: string, text: string): Timeframe {
  const timeframe = parseTimeframe(text);
  if (timeframe === null) throw new InputError([`--${name}: “${text}” is not a timeframe; write 5m, 1h, 1d, 1w or 1M, for example`]);
  return timeframe;
}

export function barsCommand(options: { bars: string; timeframe: string; to: string; market?: string; out?: string }): void {
  const from = timeframeOption("timeframe", options.timeframe);
  const to = timeframeOption("to", options.to);
  const fault = resampleFault(from, to);
  if (fault !== null) throw new InputError([`--to: ${fault}`]);
  const session = options.market === undefined ? null : readDocument(options.market, readMarket).session;
  const { bars, outside } = resample(readBars(options.bars), from, to, new MarketCalendar(session));
  if (outside > 0) process.stderr.write(`${options.bars}: ${outside} bars outside the session left out\n`);
  writeOut(options.out, writeBarsCsv(bars));
}
