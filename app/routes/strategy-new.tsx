import { useState } from "react";
import { data, Link, useSearchParams } from "react-router";
import { readStrategy, type Strategy } from "#core/documents";
import { READY_MADE, READY_MADE_STRATEGIES } from "#core/library";
import { isRefused } from "#server/problem";
import { namedSettings } from "#server/run-settings";
import { Button } from "~/design/button";
import { PageHead, Problems } from "~/design/panel";
import { startSettings } from "~/runs/settings-state";
import { StartFrom } from "~/strategies/start-from";
import { Workbench, type SaveAnswer } from "~/strategies/workbench";
import type { Route } from "./+types/strategy-new";
import { handle as strategyHandle } from "./strategy";
import { readTries } from "./strategy-tries";

export const meta: Route.MetaFunction = () => [{ title: "New strategy · Canyon" }];
export const handle = strategyHandle;

export async function loader({ context, request }: Route.LoaderArgs) {
  const { markets, definitions } = context.services;
  const [list, own, settings] = await Promise.all([
    markets.list(),
    definitions.own(),
    namedSettings(context.services, new URL(request.url).searchParams.get("under")),
  ]);
  return { markets: list, library: [...own, ...READY_MADE], ...settings };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  try {
    const { strategies } = context.services;
    const version = await strategies.create(
      JSON.parse(String(form.get("document"))),
      String(form.get("note") ?? ""),
      JSON.parse(String(form.get("hand"))),
    );
    context.services.audits.begin(version);
    await strategies.countTries(version.strategyId, readTries(JSON.parse(String(form.get("tries") ?? "[]"))));
    return {
      saved: { strategyId: version.strategyId, number: version.number },
      run: null,
      conflict: false,
      problems: [],
    } satisfies SaveAnswer;
  } catch (error) {
    if (isRefused(error))
      return data({ saved: null, run: null, conflict: false, problems: error.problems } satisfies SaveAnswer, { status: error.status });
    throw error;
  }
}

const BLANK: Strategy = {
  format: "canyon.strategy/1",
  name: "",
  timeframe: "1d",
  parameters: [],
  protect: { stop: { unit: "atr", value: 3, period: 20 } },
  sizing: { mode: "riskPercent", value: 1 },
};

/** A new strategy: from a blank page, from a ready-made one (`start=` its name), or from a file. */
export default function NewStrategyPage({ loaderData: { markets, library, named, laidOver } }: Route.ComponentProps) {
  const [params] = useSearchParams();
  const [file, setFile] = useState<{ name: string; strategy: Strategy } | null>(null);
  const [problems, setProblems] = useState<{ path: string; message: string }[]>([]);
  const from = params.get("start");
  const chosen = READY_MADE_STRATEGIES.find((one) => one.strategy.name === from);
  const open = async (given: File) => {
    let parsed: unknown;
    try {
      parsed = JSON.parse(await given.text());
    } catch {
      return setProblems([{ path: given.name, message: "this file is not JSON" }]);
    }
    const read = readStrategy(parsed);
    setProblems(read.problems);
    if (read.value !== null) setFile({ name: given.name, strategy: { name: given.name.replace(/\.json$/, ""), ...read.value } });
  };
  if (from === null && file === null && params.get("blank") === null)
    return (
      <>
        <PageHead title="New strategy" about="Start from a blank page, from a ready-made strategy, or from a file." />
        <div className="mb-3 empty:hidden">
          {problems.length > 0 && <Problems problems={problems} title="This file can't be read as a strategy" />}
        </div>
        <StartFrom onFile={open} />
      </>
    );
  const start = file?.strategy ?? chosen?.strategy ?? BLANK;
  const every = chosen?.every === undefined ? [] : markets.filter((market) => market.kind === chosen.every!.kind);
  const market = every[0] ?? markets.find((one) => one.symbol === chosen?.market) ?? markets[0];
  const settings = {
    ...startSettings(market),
    ...(every.length > 0
      ? {
          others: every
            .slice(1)
            .map((one) => one.symbol)
            .join(","),
          marketLimit: String(chosen!.every!.marketLimit),
        }
      : {}),
    ...(chosen?.others ? { others: chosen.others.filter((symbol) => markets.some((one) => one.symbol === symbol)).join(",") } : {}),
    ...(chosen === undefined ? {} : { capital: "1000000" }),
  };
  return (
    <Workbench
      key={`${from} ${file?.name}`}
      saved={BLANK}
      start={start}
      version={null}
      markets={markets}
      library={library}
      ledger={null}
      lastSettings={settings}
      named={named}
      laidOver={laidOver}
      head={(actions) => (
        <PageHead
          title="New strategy"
          about={
            chosen !== undefined
              ? `From the ready-made “${chosen.strategy.name}”; saving makes it your own.`
              : file !== null
                ? `From the file ${file.name}.`
                : "Write a rule to enter; its result appears while you type."
          }
          actions={
            <>
              <Button look="quiet" asChild>
                <Link to="/strategies/new">Start from…</Link>
              </Button>
              {actions}
            </>
          }
        />
      )}
    />
  );
}
