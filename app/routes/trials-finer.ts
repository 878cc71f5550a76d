import type { Metrics } from "#core/documents";
import { numbersOf, MOST_PICKED } from "~/optimizations/picks";
import { besideRows } from "~/run-settings/beside-rows";
import { allUnder } from "~/run-settings/under";
import { countedOf } from "~/strategies/counted-try";
import { withValues } from "~/strategies/with-values";
import type { Route } from "./+types/trials-finer";

/** Chosen trials and the version as it stands under one run settings; null figures with the reason. */
export interface FinerRow {
  key: string;
  name: string;
  about: string;
  /** the version first, then the trials in their order */
  metrics: Metrics[] | null;
  why: string | null;
}

/** Tests trials again under finer bars, other fills and recorded costs. Every result that is shown is a look, and counted as one. */
export async function action({ context, params, request }: Route.ActionArgs) {
  const { markets, optimizations, runSettings, strategies, trials } = context.services;
  const view = await optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const numbers = numbersOf(String((await request.formData()).get("trials") ?? "")).slice(0, MOST_PICKED);
  const found = (await Promise.all(numbers.map((number) => trials.one(view, number)))).flatMap((trial) => trial ?? []);
  const [version, known, named] = await Promise.all([strategies.version(view.versionId), markets.list(), runSettings.list()]);
  const all = allUnder(named).filter(({ key }) => key !== "ready.by-the-tick");
  const inForce = JSON.stringify(view.settings);
  const rows = besideRows(
    view.settings,
    version!.strategy.timeframe,
    all,
    all.map(({ key }) => key),
    known,
  ).filter((row, i) => i === 0 || JSON.stringify(row.settings) !== inForce);
  const able = rows.flatMap((row) => (row.settings === null ? [] : [row.settings]));
  const values = [{}, ...found.map((trial) => trial.values)];
  const computed = await trials.finer(view, able, values);
  const seen = able.filter((_, i) => i > 0 && computed[i].metrics !== null);
  await strategies.countTries(
    view.strategyId,
    seen.flatMap((settings) => values.map((one) => countedOf(withValues(version!.strategy, one), settings))),
  );
  let at = 0;
  return {
    trials: found.map(({ number }) => number),
    rows: rows.map(({ key, name, about, settings, why }): FinerRow => {
      const one = settings === null ? { metrics: null, why: why ?? "it can't be had" } : computed[at++];
      return { key, name, about, metrics: one.metrics, why: one.why };
    }),
  };
}
