import { useState } from "react";
import { useFetcher } from "react-router";
import type { MarketView } from "#server/markets";
import { Button } from "~/design/button";
import { Dialog } from "~/design/dialog";
import type { loader } from "~/routes/api-lists";
import { symbolsOf, type SettingsState } from "./settings-state";

interface Props {
  state: SettingsState;
  markets: readonly MarketView[];
  onChange: (state: SettingsState) => void;
  error?: string;
  className?: string;
}

/** Markets that are traded on the same account beside the first one: chosen one by one, or by a list. */
export function FurtherMarkets({ state, markets, onChange, error, className = "" }: Props) {
  const [open, setOpen] = useState(false);
  const [find, setFind] = useState("");
  const lists = useFetcher<typeof loader>({ key: "market-lists" });
  const chosen = symbolsOf(state.others).filter((symbol) => symbol !== state.market);
  const set = (symbols: readonly string[]) =>
    onChange({ ...state, others: [...new Set(symbols)].filter((s) => s !== state.market).join(",") });
  const shown = markets.filter(
    (market) =>
      market.symbol !== state.market && `${market.symbol} ${market.name} ${market.kind}`.toLowerCase().includes(find.toLowerCase()),
  );
  const watch = (lists.data ?? []).filter((list) => list.kind === "watch");
  return (
    <div className={className}>
      <p className="text-sm text-ink-soft">Further markets</p>
      <div className="flex items-center gap-2">
        <span className="figure-text min-w-0 flex-1 truncate py-1" title={chosen.join(", ")}>
          {chosen.length === 0
            ? "none"
            : chosen.length > 4
              ? `${chosen.slice(0, 3).join(", ")} and ${chosen.length - 3} more`
              : chosen.join(", ")}
        </span>
        <Button look="quiet" small onClick={() => setOpen(true)}>
          Choose…
        </Button>
      </div>
      {error && <p className="text-xs text-clay">{error}</p>}
      <Dialog
        open={open}
        onOpenChange={setOpen}
        title="Further markets"
        about="The strategy trades each of them by the same rules, on the one account. A rule can also look at them with “of”."
      >
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <input
            aria-label="Find a market"
            placeholder="find"
            value={find}
            onChange={(event) => setFind(event.target.value)}
            className="w-40 rounded-[4px] border border-edge bg-sheet px-2 py-1"
          />
          {watch.map((list) => (
            <Button key={list.id} look="quiet" small onClick={() => set([...chosen, ...list.symbols])}>
              + {list.name}
            </Button>
          ))}
          <Button look="quiet" small onClick={() => set([...chosen, ...shown.map((market) => market.symbol)])}>
            + all shown
          </Button>
          <Button look="quiet" small onClick={() => set([])} disabled={chosen.length === 0}>
            none
          </Button>
          <span className="ml-auto text-sm text-ink-soft">{chosen.length} chosen</span>
        </div>
        <ul className="grid max-h-[46vh] grid-cols-3 gap-x-3 overflow-auto">
          {shown.map((market) => (
            <li key={market.symbol}>
              <label className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={chosen.includes(market.symbol)}
                  onChange={(event) =>
                    set(event.target.checked ? [...chosen, market.symbol] : chosen.filter((symbol) => symbol !== market.symbol))
                  }
                />
                <span className="figure-text">{market.symbol}</span>
                <span className="truncate text-sm text-ink-soft">{market.name}</span>
              </label>
            </li>
          ))}
        </ul>
      </Dialog>
    </div>
  );
}
