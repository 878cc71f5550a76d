import { memo, useMemo } from "react";
import { Link } from "react-router";
import type { Trade } from "#core/documents";
import { streaksOf, type Streak } from "#core/reading";
import { dateText, decimal, signed, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { saveCsv } from "~/design/save";

/** What the number of runs says, beyond two standard deviations. */
function inWords(z: number | null): string {
  if (z === null) return "too few winners or losers to say whether they come in clusters";
  const figure = `(z ${signed(z, 2)})`;
  if (z < -2) return `winners and losers come in clusters ${figure}: more trades in a row go one way than chance would have it`;
  if (z > 2) return `winners and losers take turns ${figure} more often than chance would have it`;
  return `winners and losers follow each other as chance would have it ${figure}`;
}

/** Winners and losers in a row: how many runs of each length, and the ones that hurt or paid most. */
export const StreakPanel = memo(function StreakPanel({ trades, run }: { trades: readonly Trade[]; run: number }) {
  const { runs, lengths, z } = useMemo(() => streaksOf(trades), [trades]);
  const longest = (won: boolean) =>
    runs
      .filter((one) => one.won === won)
      .reduce<Streak | null>((most, one) => (most === null || one.count > most.count ? one : most), null);
  const ends: [string, Streak | null][] = [
    ["longest run of winners", longest(true)],
    ["longest run of losers", longest(false)],
    ["run that cost most", runs.reduce<Streak | null>((most, one) => (one.net < (most?.net ?? 0) ? one : most), null)],
  ];
  return (
    <Panel
      title="In a row"
      note={inWords(z)}
      aside={
        runs.length > 0 && (
          <button
            type="button"
            className="quiet-link"
            onClick={() =>
              saveCsv(
                `run-${run}-in-a-row`,
                ["result", "trades", "net", "first trade", "last trade", "from", "to"],
                runs.map((one) => [
                  one.won ? "won" : "lost",
                  one.count,
                  one.net,
                  one.first,
                  one.last,
                  dateText(one.from),
                  dateText(one.to),
                ]),
              )
            }
          >
            CSV
          </button>
        )
      }
    >
      <div className="grid grid-cols-[minmax(0,280px)_1fr] gap-6">
        <table className="w-full self-start border-collapse">
          <thead className="text-sm text-ink-soft">
            <tr>
              {["in a row", "winners", "losers"].map((head) => (
                <th key={head} scope="col" className="text-right font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lengths.map(({ length, won, lost }) => (
              <tr key={length} className="border-t border-edge/60">
                <th scope="row" className="figure-text text-right font-normal">
                  {length}
                </th>
                <td className="figure-text text-right">{won === 0 ? "" : decimal(won, 0)}</td>
                <td className="figure-text text-right">{lost === 0 ? "" : decimal(lost, 0)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <ul>
          {ends.flatMap(([name, one]) =>
            one === null
              ? []
              : [
                  <li key={name} className="flex gap-3 border-t border-edge/60 py-1 first:border-t-0">
                    <span className="w-48">{name}</span>
                    <span className="figure-text w-8 text-right">{one.count}</span>
                    <span className="figure-text w-24 text-right">{signedMoney(one.net)}</span>
                    <span className="text-ink-soft">
                      {dateText(one.from)} to {dateText(one.to)}
                    </span>
                    <Link className="quiet-link ml-auto" to={`/runs/${run}/trades?trade=${one.first}`}>
                      from trade {one.first}
                    </Link>
                  </li>,
                ],
          )}
        </ul>
      </div>
    </Panel>
  );
});
