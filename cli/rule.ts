import { DAY, MarketCalendar, resample } from "#core/bars";
import { readMarket } from "#core/documents";
import { checkRule, ColumnStore, nameFault, SettingError } from "#core/rules";
import { timeframeOption } from "./bars";
import { InputError, readBars, readDocument, writeOut } from "./files";

interface Options {
  bars: string;
  timeframe: string;
  rule: string;
  market?: string;
  with: string[];
  params?: string;
  out?: string;
}

export function ruleCommand(options: Options): void {
  const timeframe = timeframeOption("timeframe", options.timeframe);
  const others = new Map(options.with.map(readOther));
  const { kinds, values } = readParameters(options.params);
  const { formula, problems } = checkRule(options.rule, {
    parameters: kinds,
    definitions: new Map(),
    values,
    timeframe,
    markets: [...others.keys()],
    position: false,
  });
  if (formula === null) throw new InputError(problems.map((p) => `--rule: line ${p.line}, column ${p.column}: ${p.message}`));
  const session = options.market === undefined ? null : readDocument(options.market, readMarket).session;
  const calendar = new MarketCalendar(session);
  const { bars, outside } = resample(readBars(options.bars), timeframe, timeframe, calendar);
  if (outside > 0) process.stderr.write(`${options.bars}: ${outside} bars outside the session left out\n`);
  let column;
  try {
    const context = { calendar, timeframe };
    const stores = new Map(
      [...others].map(([symbol, file]) => [
        symbol,
        new ColumnStore(resample(readBars(file), timeframe, timeframe, calendar).bars, undefined, undefined, context),
      ]),
    );
    const store = new ColumnStore(bars, undefined, undefined, context);
    for (const one of [store, ...stores.values()]) one.link((symbol) => stores.get(symbol) ?? null);
    column = store.column(formula, values);
  } catch (error) {
    if (error instanceof SettingError) throw new InputError([`--rule: ${error.message}`]);
    throw error;
  }
  const daily = bars.time.every((time) => time % DAY === 0);
  const lines = ["time,value"];
  for (let i = 0; i < bars.length; i++) {
    const stamp = new Date(bars.time[i]).toISOString();
    lines.push(`${daily ? stamp.slice(0, 10) : stamp},${Number.isNaN(column[i]) ? "" : column[i]}`);
  }
  writeOut(options.out, lines.join("\n") + "\n");
}

/** `SYM=file` of `--with`. */
function readOther(text: string): [symbol: string, file: string] {
  const at = text.indexOf("=");
  if (at < 1 || at === text.length - 1) throw new InputError([`--with: “${text}” should be written SYM=file`]);
  return [text.slice(0, at), text.slice(at + 1)];
}

function readParameters(text: string | undefined) {
  const kinds = new Map<string, { kind: "whole" | "number" | "yesNo" }>();
  const values: Record<string, number> = {};
  for (const item of (text ?? "").split(",").filter((part) => part.trim() !== "")) {
    const [name, value, ...rest] = item.split("=").map((part) => part.trim());
    const fault = nameFault(name);
    if (fault !== null) throw new InputError([`--params: ${fault}`]);
    if (name in values) throw new InputError([`--params: “${name}” is given twice`]);
    if (value === "yes" || value === "no") {
      kinds.set(name, { kind: "yesNo" });
      values[name] = value === "yes" ? 1 : 0;
    } else if (value !== undefined && value !== "" && rest.length === 0 && Number.isFinite(Number(value))) {
      kinds.set(name, { kind: Number.isInteger(Number(value)) ? "whole" : "number" });
      values[name] = Number(value);
    } else throw new InputError([`--params: “${item}” should be written name=number, name=yes or name=no`]);
  }
  return { kinds, values };
}
