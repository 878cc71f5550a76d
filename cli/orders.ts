import Papa from "papaparse";
import { readStrategy } from "#core/documents";
import { prepareRun, type PreparedRun } from "#core/engine";
import { ORDER_COLUMNS, orderRows, ordersDocument, sheetWithChanges } from "#core/orders";
import { portfolioFingerprint, prepareMembers, weightProblems } from "#core/portfolio";
import { prepareBacktest, runFingerprint } from "#core/runs";
import { InputError, problemLines, readDocument, writeOut } from "./files";
import { settingsInPlan } from "./in-plan";
import { membersInPlan } from "./plans";

interface OrdersOptions {
  plan?: string;
  strategy?: string;
  settings?: string;
  csv?: boolean;
  out?: string;
}

/** `canyon orders`: what a strategy or a portfolio asks for in the next session; `canyon.orders/1`, or CSV. */
export function ordersCommand(options: OrdersOptions): void {
  const asked = options.plan !== undefined ? ofPortfolio(options.plan) : ofStrategy(options);
  const sheets = [{ name: asked.name, fingerprint: asked.fingerprint, ...sheetWithChanges(asked.run) }];
  const text = options.csv
    ? `${Papa.unparse([[...ORDER_COLUMNS], ...orderRows(sheets)], { newline: "\n" })}\n`
    : `${JSON.stringify(ordersDocument(sheets))}\n`;
  writeOut(options.out, text);
}

interface Asked {
  name: string;
  run: PreparedRun;
  fingerprint: string;
}

function ofStrategy({ strategy: file, settings: settingsFile }: OrdersOptions): Asked {
  if (file === undefined || settingsFile === undefined)
    throw new InputError(["orders needs either --strategy and --settings, or --plan with a portfolio"]);
  const strategy = readDocument(file, readStrategy);
  const { settings: given, bars } = settingsInPlan({ plan: settingsFile }, settingsFile.split("/").pop());
  const settings = { ...given, closeAtEnd: false };
  const { run, problems } = prepareBacktest(strategy, settings, bars);
  if (run === null) throw new InputError(problems.flatMap((p) => problemLines(p.in === "strategy" ? file : settingsFile, [p])));
  return { name: strategy.name ?? file, run, fingerprint: runFingerprint(strategy, settings, bars) };
}

function ofPortfolio(plan: string): Asked {
  const { members, settings: given, bars } = membersInPlan({ plan });
  const settings = { ...given, closeAtEnd: false };
  const faults = weightProblems(members);
  if (faults.length > 0) throw new InputError(problemLines(plan, faults));
  const prepared = prepareMembers(members, settings, bars);
  if (prepared.value === null) throw new InputError(problemLines(plan, prepared.problems));
  const run = prepareRun(prepared.value.runMembers, settings, prepared.value.markets);
  if (run.value === null)
    throw new InputError(
      problemLines(
        plan,
        run.problems.map((p) => ({ ...p, path: `settings.${p.path}` })),
      ),
    );
  return { name: plan, run: run.value, fingerprint: portfolioFingerprint(members, settings, bars) };
}
