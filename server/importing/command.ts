import { Command, CommanderError } from "commander";
import { createReadStream, existsSync, statSync } from "node:fs";
import { basename, join, resolve } from "node:path";
import pino from "pino";
import { TIME_KINDS, type CsvFormat, type TimeKind } from "#core/bars";
import { openForReading } from "../db/open";
import { toolsOf } from "../jobs/tools";
import type { NewMarket } from "../markets";
import { isRefused } from "../problem";
import { openServices } from "../services";
import type { ImportTarget } from "./imports";

// `canyon import`: files of bars into a data folder, without the interface. All or nothing, file by file.

const root = resolve(import.meta.dirname, "../..");
const program = new Command("canyon import")
  .description("Reads files of bars (CSV, plain, .gz or .zip) into a data folder; each is taken as a whole or not at all.")
  .argument("<files...>", "files of bars")
  .option("--market <symbol>", "the market; else the one whose symbol the file's name begins with")
  .option("--create <json>", "make the market: symbol, name, kind, currency, tick, pointValue")
  .option("--source <name>", "where the bars come from", "a file")
  .option("--data <folder>", "data folder", process.env.CANYON_DATA ?? join(root, "data"))
  .option("--timeframe <timeframe>", "of the bars, where the guess is wrong")
  .option("--zone <zone>", "IANA zone of times without an offset")
  .option("--stamp <start|end>", "whether a line's time is its bar's start or end")
  .option("--dates <kind>", `how dates stand: ${TIME_KINDS.join(", ")}`)
  .option("--delimiter <character>", "between cells")
  .option("--decimal <point|comma>", "decimal mark")
  .option("--leave-out", "leave broken lines out and import the rest")
  .option("--take-changes", "take bars that differ from what the source holds")
  .exitOverride()
  .configureOutput({ writeOut: (text) => process.stderr.write(text), outputError: (text) => process.stderr.write(text) });

interface Options {
  market?: string;
  create?: string;
  source: string;
  data: string;
  timeframe?: string;
  zone?: string;
  stamp?: string;
  dates?: string;
  delimiter?: string;
  decimal?: string;
  leaveOut?: boolean;
  takeChanges?: boolean;
}

const say = (text: string) => void process.stderr.write(`${text}\n`);

function adjusted(format: CsvFormat, options: Options): CsvFormat {
  return {
    ...format,
    ...(options.timeframe === undefined ? {} : { timeframe: options.timeframe }),
    ...(options.zone === undefined ? {} : { zone: options.zone }),
    ...(options.stamp === undefined ? {} : { stamp: options.stamp === "end" ? ("end" as const) : ("start" as const) }),
    ...(options.dates === undefined ? {} : { time: options.dates as TimeKind }),
    ...(options.delimiter === undefined ? {} : { delimiter: options.delimiter }),
    ...(options.decimal === undefined ? {} : { decimal: options.decimal === "comma" ? ("," as const) : ("." as const) }),
  };
}

/** Imports all files; gives the exit code. */
async function run(files: string[], options: Options): Promise<number> {
  for (const file of files)
    if (!existsSync(file)) {
      say(`${file}: there is no such file`);
      return 1;
    }
  if (options.dates !== undefined && !(TIME_KINDS as readonly string[]).includes(options.dates)) {
    say(`--dates: “${options.dates}” is none of ${TIME_KINDS.join(", ")}`);
    return 1;
  }
  let create: NewMarket | null = null;
  try {
    create = options.create === undefined ? null : { ...(JSON.parse(options.create) as NewMarket), source: options.source };
  } catch {
    say("--create: this is no JSON");
    return 1;
  }
  const idle = { width: 1, run: () => Promise.reject(new Error("this command queues no jobs")), close: () => Promise.resolve() };
  options.data = resolve(options.data);
  const services = await openServices(options.data, join(root, "server/db/migrations"), idle, pino({ level: "silent" }));
  const db = openForReading(options.data);
  const tools = toolsOf(db, options.data)(() => {});
  let code = 0;
  try {
    for (const file of files) {
      const uploads = await services.imports.uploads.receive(basename(file), createReadStream(file), statSync(file).size);
      for (const upload of uploads) {
        const wrong = (text: string) => {
          say(`${file}${upload.entry === null ? "" : ` (${upload.entry})`}: ${text}`);
          code = 1;
        };
        const preview = await services.imports.preview(upload.id, { market: options.market ?? create?.symbol, source: options.source });
        if (preview.doubts.length > 0 && options.dates === undefined) {
          wrong(`${preview.doubts[0].question}; say so with --dates dayFirst or --dates monthFirst`);
          await services.imports.uploads.drop(upload.id);
          continue;
        }
        const market = create === null ? (options.market ?? preview.guess) : null;
        if (create === null && market === null) {
          wrong("no market's symbol begins this name; name one with --market, or make one with --create");
          await services.imports.uploads.drop(upload.id);
          continue;
        }
        const target: ImportTarget = {
          market,
          create,
          source: options.source,
          format: adjusted(preview.format, options),
          leaveOut: options.leaveOut ?? false,
          takeChanges: options.takeChanges ?? false,
        };
        try {
          const { report, questions } = await services.imports.readNow(upload.id, target, tools);
          for (const { line, message } of report.problems) say(`${file}: line ${line} left out: ${message}`);
          if (report.rejected > report.problems.length) say(`${file}: and ${report.rejected - report.problems.length} more lines`);
          if (report.fatal !== null) wrong(`nothing was imported: ${report.fatal}`);
          else if (questions.includes("broken"))
            wrong(`nothing was imported: ${report.rejected} broken lines; mend them, or use --leave-out`);
          else if (questions.includes("changed"))
            wrong(`nothing was imported: ${report.changed} bars differ from what the source holds; use --take-changes`);
          else
            say(`${file}: ${report.added} new bars and ${report.changed} changed ones in ${market ?? create!.symbol}, ${options.source}`);
        } catch (error) {
          if (!isRefused(error)) throw error;
          for (const problem of error.problems) wrong(`${problem.message} (${problem.path})`);
          await services.imports.uploads.drop(upload.id);
        }
      }
    }
  } catch (error) {
    if (!isRefused(error)) throw error;
    for (const problem of error.problems) say(problem.message);
    code = 1;
  } finally {
    await services.close();
    db.$client.close();
  }
  return code;
}

try {
  program.action(async (files: string[], options: Options) => {
    process.exitCode = await run(files, options);
  });
  await program.parseAsync(process.argv.slice(3), { from: "user" });
} catch (error) {
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 1;
  else {
    say(`canyon failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`);
    process.exitCode = 2;
  }
}
