import { X } from "lucide-react";
import { useMemo, useState } from "react";
import { useFetcher } from "react-router";
import { NO_COSTS } from "#core/documents";
import { settingsMarket } from "#server/market-source";
import type { MarketView } from "#server/markets";
import type { PortfolioMember } from "#server/portfolios";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { MarketSelect } from "~/markets/market-select";

import { decimal } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { Slider } from "~/design/slider";

export interface Candidate {
  versionId: number;
  name: string;
  number: number;
  status: string;
  market: string;
}

export interface BuilderStart {
  name: string;
  members: PortfolioMember[];
  capital: string;
  leverage: string;
  from: string;
  to: string;
}

/** Weights as whole thousandths that add up to 1: what one slider takes, the others give in proportion. */
export function rebalance(weights: readonly number[], index: number, to: number): number[] {
  const target = Math.round(Math.min(1, Math.max(0, to)) * 1000);
  const others = weights.map((w, i) => (i === index ? 0 : w));
  const sum = others.reduce((a, b) => a + b, 0);
  const rest = 1000 - target;
  const out = others.map((w, i) =>
    i === index ? target : Math.floor(sum > 0 ? (rest * w) / sum : rest / Math.max(1, weights.length - 1)),
  );
  let lack = 1000 - out.reduce((a, b) => a + b, 0);
  for (let i = 0; lack > 0 && weights.length > 1; i = (i + 1) % out.length) {
    if (i === index) continue;
    out[i]++;
    lack--;
  }
  return out.map((x) => x / 1000);
}

/** Members with weights and the account they share. Costs are each market's own where they agree, else the first one's. */
export function Builder({
  start,
  candidates,
  markets,
  revision,
  saveLabel,
  onDone,
}: {
  start: BuilderStart;
  candidates: readonly Candidate[];
  markets: readonly MarketView[];
  revision: number;
  saveLabel: string;
  onDone?: () => void;
}) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const [name, setName] = useState(start.name);
  const [members, setMembers] = useState(start.members);
  const [account, setAccount] = useState({ capital: start.capital, leverage: start.leverage, from: start.from, to: start.to });
  const used = useMemo(() => [...new Set(members.flatMap((member) => member.markets))], [members]);
  const add = (versionId: string) => {
    const candidate = candidates.find((c) => String(c.versionId) === versionId);
    if (!candidate) return;
    const symbol = markets.some((m) => m.symbol === candidate.market) ? candidate.market : (markets[0]?.symbol ?? "");
    const base = candidate.name;
    const taken = members.filter((member) => member.name.startsWith(base)).length;
    const next = [
      ...members,
      { versionId: candidate.versionId, name: taken === 0 ? base : `${base} ${taken + 1}`, markets: [symbol], weight: 0 },
    ];
    const weights = rebalance(
      next.map((member) => member.weight),
      next.length - 1,
      1 / next.length,
    );
    setMembers(next.map((member, i) => ({ ...member, weight: next.length === 1 ? 1 : weights[i] })));
  };
  const remove = (i: number) => {
    const next = members.filter((_, k) => k !== i);
    const total = next.reduce((sum, member) => sum + member.weight, 0);
    setMembers(
      next.length === 0
        ? []
        : rebalance(
            next.map((m) => (total > 0 ? m.weight / total : 1 / next.length)),
            0,
            total > 0 ? next[0].weight / total : 1 / next.length,
          ).map((weight, k) => ({ ...next[k], weight })),
    );
  };
  const weigh = (i: number, to: number) => {
    const weights = rebalance(
      members.map((member) => member.weight),
      i,
      to,
    );
    setMembers(members.map((member, k) => ({ ...member, weight: weights[k] })));
  };
  const submit = () => {
    const chosen = used.map((symbol) => markets.find((m) => m.symbol === symbol)).filter((m): m is MarketView => m !== undefined);
    const settings = {
      format: "canyon.settings/1",
      markets: chosen.map((market) => settingsMarket(market)),
      from: account.from || null,
      to: account.to || null,
      capital: Number(account.capital.replace(/[\s,]/g, "")),
      leverage: Number(account.leverage),
      currency: chosen[0]?.currency,
      costs: chosen[0]?.costs ?? NO_COSTS,
      benchmark: chosen[0]?.symbol ?? null,
    };
    void fetcher.submit(
      { intent: "save", name, revision: String(revision), document: JSON.stringify({ members, settings }) },
      { method: "post" },
    );
    onDone?.();
  };
  const problems = fetcher.data?.problems ?? [];
  return (
    <div className="grid grid-cols-[1fr_300px] items-start gap-3">
      <Panel title="Members" note="weights are kept at 100 %">
        {members.length === 0 && <p className="mb-2 text-ink-soft">Add two versions or more from the library.</p>}
        <ul>
          {members.map((member, i) => (
            <li key={member.name} className="grid grid-cols-[1fr_120px_1fr_72px_24px] items-center gap-3 border-b border-edge/60 py-1.5">
              <span className="truncate font-semibold">{member.name}</span>
              <MarketSelect
                hideLabel
                label={`Market of ${member.name}`}
                value={member.markets[0]}
                choices={markets.map((m) => ({ value: m.symbol, label: m.symbol }))}
                onChange={(symbol) => setMembers(members.map((m, k) => (k === i ? { ...m, markets: [symbol] } : m)))}
              />
              <Slider
                label={`Weight of ${member.name}`}
                value={Math.round(member.weight * 100)}
                min={0}
                max={100}
                step={1}
                onChange={(x) => weigh(i, x / 100)}
              />
              <span className="figure-text text-right">{decimal(member.weight * 100, 1)} %</span>
              <button
                type="button"
                aria-label={`Remove ${member.name}`}
                onClick={() => remove(i)}
                className="rounded p-1 text-ink-soft hover:text-ink"
              >
                <X size={14} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
        <div className="mt-3 max-w-sm">
          <Select
            key={members.length}
            label="Add a version"
            placeholder="choose from the library"
            value=""
            choices={candidates.map((c) => ({ value: String(c.versionId), label: `${c.name} v${c.number}, ${c.status}` }))}
            onChange={add}
          />
        </div>
      </Panel>
      <Panel title="Account">
        <div className="grid grid-cols-2 gap-2">
          <Field
            label="Name"
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="col-span-2"
            error={problems.find((p) => p.path === "name")?.message}
          />
          <Field
            label="Capital"
            value={account.capital}
            figure
            inputMode="decimal"
            onChange={(event) => setAccount({ ...account, capital: event.target.value })}
          />
          <Field
            label="Leverage"
            value={account.leverage}
            figure
            inputMode="decimal"
            onChange={(event) => setAccount({ ...account, leverage: event.target.value })}
          />
          <Field label="From" type="date" value={account.from} onChange={(event) => setAccount({ ...account, from: event.target.value })} />
          <Field label="To" type="date" value={account.to} onChange={(event) => setAccount({ ...account, to: event.target.value })} />
          <div className="col-span-2 pt-1">
            <Button look="primary" onClick={submit} disabled={fetcher.state !== "idle" || members.length < 2}>
              {fetcher.state !== "idle" ? "Computing …" : saveLabel}
            </Button>
          </div>
        </div>
        <div className="mt-2 empty:hidden">
          <Problems problems={problems} title="Not saved" />
        </div>
      </Panel>
    </div>
  );
}
