import { readFileSync, renameSync, writeFileSync } from "node:fs";
import { readBarsCsv, readSeriesCsv, type Bars, type DatedSeries } from "#core/bars";
import type { DocumentProblem, Read } from "#core/documents";

/** The input is wrong: one line per problem, with file and place. Ends the command with 1. */
export class InputError extends Error {
  constructor(readonly lines: string[]) {
    super(lines.join("\n"));
  }
}

export const problemLines = (
  file: string,
  problems: readonly (DocumentProblem & { rule?: { line: number; column: number } })[],
): string[] =>
  problems.map(
    ({ path, message, rule }) =>
      `${file}: ${path === "" ? "" : `${path}: `}${rule ? `line ${rule.line}, column ${rule.column}: ` : ""}${message}`,
  );

function readText(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch (error) {
    throw new InputError([
      `${file}: can't be read: ${(error as NodeJS.ErrnoException).code === "ENOENT" ? "there is no such file" : (error as Error).message}`,
    ]);
  }
}

export function readJson(file: string): unknown {
  const text = readText(file);
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new InputError([`${file}: is not JSON: ${(error as Error).message}`]);
  }
}

/** Reads a document, or ends the command with everything that is wrong with it. */
export function readDocument<T>(file: string, read: (given: unknown) => Read<T>): T {
  const outcome = read(readJson(file));
  if (outcome.value === null) throw new InputError(problemLines(file, outcome.problems));
  return outcome.value;
}

/** Reads bars; lines left out are named on standard error. */
export function readBars(file: string): Bars {
  const { bars, problems, fatal } = readBarsCsv(readText(file));
  if (fatal !== null) throw new InputError([`${file}: ${fatal}`]);
  for (const { line, message } of problems) process.stderr.write(`${file}: line ${line} left out: ${message}\n`);
  return bars;
}

/** Writes figures to a file (whole or not at all) or to standard output. */
export function writeOut(file: string | undefined, text: string): void {
  if (file === undefined) {
    process.stdout.write(text);
    return;
  }
  const half = `${file}.part`;
  try {
    writeFileSync(half, text);
    renameSync(half, file);
  } catch (error) {
    throw new InputError([`${file}: can't be written: ${(error as Error).message}`]);
  }
}

/** Reads dated values: the column `value`, or the one that bears the symbol. */
export function readSeries(file: string, symbol: string): DatedSeries {
  const { columns, problems, fatal } = readSeriesCsv(readText(file));
  if (fatal !== null) throw new InputError([`${file}: ${fatal}`]);
  if (problems.length > 0) throw new InputError(problems.map(({ line, message }) => `${file}: line ${line}: ${message}`));
  const series = columns.value ?? columns[symbol];
  if (series === undefined) throw new InputError([`${file}: no column “value” or “${symbol}”`]);
  return series;
}
