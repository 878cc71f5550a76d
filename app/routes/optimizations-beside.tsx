import { useCallback, useMemo } from "react";
import { Link, useNavigate } from "react-router";
import type { Profile } from "#core/optimize";
import type { JudgedTrial } from "#server/judgement-stream";
import type { OptimizationView } from "#server/optimizations";
import type { Beside } from "#server/trials";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { TrialScatter } from "~/charts/trial-scatter";
import { Select } from "~/design/field";
import { decimal, metricText } from "~/design/format";
import { Empty, PageHead, Panel } from "~/design/panel";
import { PlainTable, type PlainRow } from "~/design/plain-table";
import { useAddress } from "~/design/use-address";
import { columnHead } from "~/optimizations/trial-table";
import { limitWords, marketWords, methodWords, objectiveWords, originWords, varyWords } from "~/optimizations/words";
import type { Route } from "./+types/optimizations-beside";

export const meta: Route.MetaFunction = () => [{ title: "Optimizations beside each other · Canyon" }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const { optimizations, trials } = context.services;
  const address = new URL(request.url).searchParams;
  const all = await optimizations.list();
  const find = (key: string) => all.find((view) => String(view.id) === address.get(key)) ?? null;
  const first = find("a");
  if (first === null) return { first: null, second: null, others: all, judged: [null, null], beside: null };
  const others = all.filter((view) => view.strategyId === first.strategyId && view.id !== first.id);
  const second = find("b") ?? others.find((view) => view.job.state === "done") ?? null;
  const [one, other, beside] = await Promise.all([
    trials.judged(first),
    second === null ? null : trials.judged(second),
    second === null ? null : trials.beside(first, second),
  ]);
  return { first, second, others, judged: [one?.judgement ?? null, other?.judgement ?? null], beside };
}

const FIGURES = ["netProfit", "trades", "profitFactor", "maxDrawdownPercent", "profitToDrawdown", "sharpe"];
const name = (view: OptimizationView) => `no. ${view.number} (v${view.versionNumber})`;
const NONE = [] as const;

/** Two optimizations of a strategy: what differs between them, how far the choice moves, and what each name does in both. */
export default function OptimizationsBesidePage({ loaderData: { first, second, others, judged, beside } }: Route.ComponentProps) {
  const { set } = useAddress();
  if (first === null)
    return (
      <>
        <PageHead title="Optimizations beside each other" />
        <Empty title="No optimization chosen yet">Open one and press “Beside another…”.</Empty>
      </>
    );
  return (
    <>
      <PageHead
        title="Optimizations beside each other"
        about={
          <Link className="quiet-link" to={`/optimizations/${first.id}`}>
            {first.strategyName} v{first.versionNumber}, no. {first.number}
          </Link>
        }
        actions={
          others.length > 0 && (
            <Select
              className="w-72"
              label="Beside"
              value={second === null ? "" : String(second.id)}
              choices={others.map((view) => ({ value: String(view.id), label: `${name(view)}: ${objectiveWords(view.search.objective)}` }))}
              onChange={(id) => set("b", id)}
            />
          )
        }
      />
      {second === null ? (
        <Empty title="There is no other one yet">
          This is the only optimization of its strategy. Run it again with another objective, other dates, or without its best trades, and
          set both beside each other.
        </Empty>
      ) : (
        <Both first={first} second={second} judged={judged} beside={beside} />
      )}
    </>
  );
}

interface BothProps {
  first: OptimizationView;
  second: OptimizationView;
  judged: Route.ComponentProps["loaderData"]["judged"];
  beside: Beside | null;
}

function Both({ first, second, judged: [one, other], beside }: BothProps) {
  const navigate = useNavigate();
  const pick = useCallback((trial: number) => void navigate(`/optimizations/${first.id}/trials/${trial}`), [navigate, first.id]);
  const currency = first.settings.currency ?? "money";
  const names = [...new Set([...first.search.vary, ...second.search.vary].map((item) => item.name))];
  const columns = [...new Set([...first.search.objective, ...second.search.objective].map(({ metric }) => metric).concat(FIGURES))];
  const row = (view: OptimizationView, what: string, trial: JudgedTrial | null | undefined): PlainRow[] =>
    trial === null || trial === undefined
      ? []
      : [
          {
            key: `${view.id} ${what}`,
            cells: [
              <Link key="name" className="quiet-link" to={`/optimizations/${view.id}/trials/${trial.number}`}>
                {name(view)}, {what}
              </Link>,
              ...names.map((one) => (one in trial.values ? Number(trial.values[one].toPrecision(8)) : "–")),
              ...columns.map((key) => metricText(key, trial.metrics[key])),
            ],
            file: [
              `${name(view)}, ${what}`,
              ...names.map((one) => trial.values[one] ?? null),
              ...columns.map((key) => trial.metrics[key] ?? null),
            ],
          },
        ];
  const facts = (view: OptimizationView) => [
    ["varied", varyWords(view.search)],
    ["on", marketWords(view)],
    ["dates", `${view.settings.from ?? "start"} to ${view.settings.to ?? "end"}`],
    ["objective", objectiveWords(view.search.objective)],
    ["limits", limitWords(view.search) || "none"],
    ["method", methodWords(view.search)],
    ["left out", originWords(view) || "nothing"],
    ["trials", decimal(view.job.done, 0)],
  ];
  const [left, right] = [facts(first), facts(second)];
  const axes = useMemo(() => [`fit in ${name(first)}`, `fit in ${name(second)}`] as const, [first, second]);
  const shared = (one?.profiles ?? []).flatMap((profile) => {
    const twin = other?.profiles.find((each) => each.name === profile.name);
    return twin === undefined ? [] : [[profile, twin] as const];
  });
  return (
    <div className="grid grid-cols-2 items-start gap-3">
      <Panel title="How far the choice moves" className="col-span-2" flush>
        <p className="px-3.5 pb-2" data-shared={beside?.shared ?? 0}>
          {moved(first, second, one?.recommended ?? null, other?.recommended ?? null, beside)}
        </p>
        <PlainTable
          label="Peaks and middles of both"
          fileName={`optimizations-${first.id}-${second.id}`}
          heads={["trial", ...names, ...columns.map((key) => columnHead(key, currency))]}
          rows={[
            ...row(first, "peak", one?.peak),
            ...row(second, "peak", other?.peak),
            ...row(first, "middle", one?.recommended),
            ...row(second, "middle", other?.recommended),
          ]}
        />
      </Panel>
      <Panel title="What differs" flush>
        <PlainTable
          label="Set-ups of both"
          fileName={`optimizations-${first.id}-${second.id}-set-up`}
          words={3}
          heads={["", name(first), name(second)]}
          rows={left.map(([what, mine], i) => ({
            key: what,
            strong: mine !== right[i][1],
            cells: [what, mine, right[i][1]],
            file: [what, mine, right[i][1]],
          }))}
        />
      </Panel>
      <Panel title="The same trials in both" note={beside === null ? "" : `${decimal(beside.shared, 0)} that both have`}>
        {beside === null || beside.dots.length === 0 ? (
          <p className="text-ink-soft">They have no trial in common that is inside the limits of both.</p>
        ) : (
          <TrialScatter
            label={`Trials by ${axes[0]} and ${axes[1]}`}
            trials={beside.dots}
            front={NONE}
            marks={NONE}
            axes={axes}
            height={240}
            fileName={`optimizations-${first.id}-${second.id}-fits`}
            onPick={pick}
            legend={<span>one dot a trial; a click opens it</span>}
          />
        )}
      </Panel>
      {shared.map(([profile, twin]) => (
        <Panel key={profile.name} title={profile.name} note="the middle of the fits along its values, each against its own best">
          <Overlay first={name(first)} second={name(second)} profiles={[profile, twin]} />
        </Panel>
      ))}
    </div>
  );
}

/** Both profiles of a name in percent of their own largest middle, since fits of two objectives are no one scale. */
function Overlay({ first, second, profiles }: { first: string; second: string; profiles: readonly [Profile, Profile] }) {
  const lines = useMemo<Line[]>(
    () =>
      profiles.map(({ points }, i) => {
        const top = Math.max(...points.map((point) => Math.abs(point.middle)));
        return {
          name: i === 0 ? first : second,
          time: points.map((point) => point.value),
          value: points.map((point) => (top === 0 ? 0 : (100 * point.middle) / top)),
        };
      }),
    [profiles, first, second],
  );
  return (
    <LinesChart
      label={`${profiles[0].name} in both`}
      lines={lines}
      height={150}
      fileName={`beside-${profiles[0].name}`}
      numbered={profiles[0].name}
      tick={(value) => `${decimal(value, 0)} %`}
    />
  );
}

/** How far the recommended values lie apart, and how the trials that both have agree; in words. */
function moved(
  first: OptimizationView,
  second: OptimizationView,
  one: JudgedTrial | null,
  other: JudgedTrial | null,
  beside: Beside | null,
): string {
  const parts: string[] = [];
  if (one !== null && other !== null) {
    const moves = Object.keys(one.values)
      .filter((key) => key in other.values && one.values[key] !== other.values[key])
      .map((key) => `${key} from ${Number(one.values[key].toPrecision(6))} to ${Number(other.values[key].toPrecision(6))}`);
    parts.push(
      moves.length === 0 ? "The middle of the plateau stays where it is." : `The middle of the plateau moves: ${moves.join(", ")}.`,
    );
  } else parts.push("One of them has no plateau to recommend anything from.");
  if (beside === null) parts.push("They vary different names, so that their trials can't be set against each other.");
  else {
    if (beside.correlation !== null)
      parts.push(
        `The fits of the ${decimal(beside.shared, 0)} trials that both have agree in rank with a correlation of ${decimal(beside.correlation, 2)}.`,
      );
    const { bestOfFirst: place } = beside;
    if (place !== null)
      parts.push(
        place.rank === null
          ? `The best of ${name(first)} is outside the limits of ${name(second)}.`
          : `The best of ${name(first)} is number ${decimal(place.rank, 0)} of ${decimal(place.of, 0)} in ${name(second)}.`,
      );
  }
  return parts.join(" ");
}
