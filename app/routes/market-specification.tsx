import { useState } from "react";
import { data, Form, redirect, useNavigation } from "react-router";
import type { Costs } from "#core/documents";
import { MARKET_KINDS } from "#server/market-kinds";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { decimal, money } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { MarketHead } from "~/markets/head";
import type { Route } from "./+types/market-specification";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol}, specification · Canyon` }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { markets, calendars } = context.services;
  const market = await markets.bySymbol(params.symbol);
  if (market === null) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  return {
    market,
    calendars: (await calendars.list()).map(({ id, name, session }) => ({ id, name, hours: `${session.open}–${session.close}` })),
  };
}

const COSTS: [key: keyof Costs, label: string][] = [
  ["perUnit", "Commission per unit and fill"],
  ["perOrder", "Commission per order"],
  ["percent", "Commission, % of notional"],
  ["minimum", "Least commission per order"],
  ["spreadTicks", "Spread, ticks"],
  ["slippageTicks", "Slippage, ticks"],
  ["financingLongPercent", "Financing of longs, % a year"],
  ["financingShortPercent", "Financing of shorts, % a year"],
];

const number = (text: unknown): number => {
  const plain = String(text ?? "")
    .trim()
    .replace(",", ".");
  return plain === "" ? NaN : Number(plain);
};

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { markets } = context.services;
  const calendar = String(form.get("calendar"));
  try {
    const market = await markets.need(params.symbol);
    await markets.update(params.symbol, {
      symbol: params.symbol,
      name: String(form.get("name")),
      kind: String(form.get("kind")),
      currency: String(form.get("currency")).trim(),
      sector: String(form.get("sector") ?? ""),
      tick: number(form.get("tick")),
      pointValue: number(form.get("pointValue")),
      unitStep: number(form.get("unitStep")),
      minUnits: number(form.get("minUnits")),
      margin: { mode: form.get("marginMode") === "perUnit" ? "perUnit" : "fraction", value: number(form.get("margin")) },
      calendarId: /^\d+$/.test(calendar) ? Number(calendar) : null,
      session: calendar === "own" ? market.spec.session : null,
      costs: Object.fromEntries(COSTS.map(([key]) => [key, number(form.get(`costs.${key}`))])) as unknown as Costs,
    });
    return redirect(`/markets/${params.symbol}/specification?saved=yes`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function SpecificationPage({ loaderData: { market, calendars }, actionData }: Route.ComponentProps) {
  const { spec, currency } = market;
  const navigation = useNavigation();
  const problems = actionData?.problems ?? [];
  const error = (path: string) => problems.find((problem) => problem.path === path)?.message;
  const [tick, setTick] = useState(String(spec.tick));
  const [pointValue, setPointValue] = useState(String(spec.pointValue));
  const [margin, setMargin] = useState(String(spec.margin.value));
  const [mode, setMode] = useState<string>(spec.margin.mode);
  const [costs, setCosts] = useState<Record<string, string>>(Object.fromEntries(COSTS.map(([key]) => [key, String(market.costs[key])])));
  const close = market.lastClose;
  const worth = number(tick) * number(pointValue);
  const notional = Math.abs(close) * number(pointValue);
  const tiedUp = mode === "fraction" ? notional * number(margin) : number(margin);
  const roundTrip =
    2 * Math.max(number(costs.minimum), number(costs.perOrder) + number(costs.perUnit) + (number(costs.percent) / 100) * notional) +
    (number(costs.spreadTicks) + 2 * number(costs.slippageTicks)) * worth;
  return (
    <>
      <MarketHead market={market} />
      <Form method="post" className="grid grid-cols-[1fr_1fr_280px] items-start gap-3">
        <Panel title="The market">
          <div className="grid grid-cols-2 gap-x-3 gap-y-2.5">
            <Field label="Name" name="name" defaultValue={market.name} error={error("name")} className="col-span-2" />
            <Select label="Kind" name="kind" value={market.kind} choices={MARKET_KINDS.map((kind) => ({ value: kind, label: kind }))} />
            <Field label="Sector" name="sector" defaultValue={market.sector} />
            <Field label="Currency" name="currency" defaultValue={currency} error={error("currency")} />
            <Select
              label="Calendar"
              name="calendar"
              value={market.calendarId !== null ? String(market.calendarId) : spec.session === null ? "none" : "own"}
              choices={[
                { value: "none", label: "round the clock, UTC" },
                ...(spec.session !== null && market.calendarId === null ? [{ value: "own", label: "its own hours" }] : []),
                ...calendars.map((calendar) => ({ value: String(calendar.id), label: `${calendar.name}, ${calendar.hours}` })),
              ]}
            />
            <Field label="Tick" name="tick" value={tick} onChange={(event) => setTick(event.target.value)} figure error={error("tick")} />
            <Field
              label={`${currency} per 1.0 of price`}
              name="pointValue"
              value={pointValue}
              onChange={(event) => setPointValue(event.target.value)}
              figure
              error={error("pointValue")}
            />
            <Field label="Units come in steps of" name="unitStep" defaultValue={String(spec.unitStep)} figure error={error("unitStep")} />
            <Field label="Least units" name="minUnits" defaultValue={String(spec.minUnits)} figure error={error("minUnits")} />
            <Select
              label="Margin"
              name="marginMode"
              value={mode}
              onChange={setMode}
              choices={[
                { value: "fraction", label: "share of notional" },
                { value: "perUnit", label: `${currency} per unit` },
              ]}
            />
            <Field
              label={mode === "fraction" ? "Share, 1 is fully paid" : `${currency} per unit`}
              name="margin"
              value={margin}
              onChange={(event) => setMargin(event.target.value)}
              figure
              error={error("margin.value")}
            />
          </div>
        </Panel>
        <Panel title="Costs" note="what run settings start from">
          <div className="grid grid-cols-2 gap-x-3 gap-y-2.5">
            {COSTS.map(([key, label]) => (
              <Field
                key={key}
                label={label}
                name={`costs.${key}`}
                value={costs[key]}
                onChange={(event) => setCosts((before) => ({ ...before, [key]: event.target.value }))}
                figure
                error={error(`costs.${key}`)}
              />
            ))}
          </div>
        </Panel>
        <div className="flex flex-col gap-3">
          <Panel title="What that means">
            <ul className="flex flex-col gap-1.5" data-examples>
              <li>
                One tick is worth <b className="figure-text">{decimal(worth, 2)}</b> {currency}.
              </li>
              <li>
                One unit at {decimal(close, 2)} is <b className="figure-text">{money(notional)}</b> {currency} of notional and ties up{" "}
                <b className="figure-text">{money(tiedUp)}</b>.
              </li>
              <li>
                In and out again costs <b className="figure-text">{money(roundTrip)}</b> {currency} a unit: {decimal(roundTrip / worth, 1)}{" "}
                ticks.
              </li>
            </ul>
          </Panel>
          <Problems problems={problems} title="Nothing was saved" />
          <Button type="submit" look="primary" disabled={navigation.state !== "idle"}>
            {navigation.state !== "idle" ? "Saving …" : "Save"}
          </Button>
          <p className="text-sm text-ink-soft">Stored runs keep the specification that they were made with.</p>
        </div>
      </Form>
    </>
  );
}
