import { Command } from "cmdk";
import { useEffect, useState } from "react";
import { useFetcher, useNavigate } from "react-router";
import { PLACES } from "./places";

export interface Found {
  group: string;
  name: string;
  about?: string;
  to: string;
}

interface PaletteProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  onTheme: () => void;
  onKeys: () => void;
}

/** The command palette: every place, market, strategy and action by a few letters. */
export function Palette({ open, onOpenChange, onTheme, onKeys }: PaletteProps) {
  const navigate = useNavigate();
  const fetcher = useFetcher<{ found: Found[] }>({ key: "palette" });
  const [word, setWord] = useState("");
  const { load } = fetcher;
  useEffect(() => {
    if (open) setWord("");
  }, [open]);
  useEffect(() => {
    if (open) void load("/api/jobs?find=1");
    // once at each opening: loading again would only disturb who is typing
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [open]);
  const found = fetcher.data?.found ?? [];
  const go = (to: string) => {
    onOpenChange(false);
    void navigate(to);
  };
  const act = (action: () => void) => {
    onOpenChange(false);
    action();
  };
  const item = (key: string, name: string, about: string | undefined, run: () => void, value = name) => (
    <Command.Item
      key={key}
      value={value}
      keywords={about ? [about] : undefined}
      onSelect={run}
      className="flex cursor-pointer items-baseline gap-3 rounded-[3px] px-3 py-1.5 data-[selected=true]:bg-shade"
    >
      <span>{name}</span>
      {about && <span className="ml-auto truncate text-sm text-ink-soft">{about}</span>}
    </Command.Item>
  );
  const groups = [...new Set(found.map((entry) => entry.group))];
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Find a place or an action"
      overlayClassName="fixed inset-0 z-40 bg-ink/30"
      contentClassName="fixed top-[14vh] left-1/2 z-50 w-[min(600px,92vw)] -translate-x-1/2 overflow-hidden rounded-[6px] border border-edge bg-sheet text-ink shadow-2xl"
    >
      <Command.Input
        value={word}
        onValueChange={setWord}
        placeholder="Go to a place, a market, a strategy; or do something"
        className="w-full border-b border-edge bg-sheet px-4 py-3 text-lg outline-none placeholder:text-ink-soft"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2 [&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:text-sm [&_[cmdk-group-heading]]:text-ink-soft">
        <Command.Empty className="px-3 py-4 text-ink-soft">Nothing is called that.</Command.Empty>
        <Command.Group heading="Go to">
          {PLACES.flatMap(({ places }) => places.map((place) => item(place.to, place.name, undefined, () => go(place.to))))}
        </Command.Group>
        <Command.Group heading="Do">
          {item("new-strategy", "New strategy", "write rules", () => go("/strategies/new"))}
          {item("import", "Import bars", "from a CSV file", () => go("/markets/import"))}
          {item("definitions", "Definitions", "triggers, filters, regimes, patterns", () => go("/definitions"))}
          {item("runs", "Runs", "every stored backtest", () => go("/runs"))}
          {item("run-settings", "Run settings", "costs, fills, dates and account under a name", () => go("/run-settings"))}
          {item("new-optimization", "New optimization", "vary parameters", () => go("/optimizations/new"))}
          {item("order-sheet", "Order sheet", "what to do in the next session", () => go("/orders"))}
          {item("choose-library", "Choose from the library", "the best few within limits, for a portfolio", () => go("/portfolios/choose"))}
          {item("regimes", "Regimes", "what a condition divides; switching", () => go("/regimes"))}
          {item("new-portfolio", "New portfolio", "versions on one account", () => go("/portfolios/new"))}
          {item("theme", "Change the theme", "limestone or dusk", () => act(onTheme))}
          {item("keys", "Keys of this page", "?", () => act(onKeys))}
          {item("help-rules", "Rule notation", "every function, with examples", () => go("/help/rules"))}
        </Command.Group>
        {groups.map((group) => (
          <Command.Group key={group} heading={group}>
            {found
              .filter((entry) => entry.group === group)
              .map((entry) => item(entry.to, entry.name, entry.about, () => go(entry.to), `${entry.name}, ${group}`))}
          </Command.Group>
        ))}
      </Command.List>
    </Command.Dialog>
  );
}
