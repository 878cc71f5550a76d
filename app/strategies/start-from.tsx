import { useRef } from "react";
import { Link } from "react-router";
import { READY_MADE_STRATEGIES } from "#core/library";
import { Button } from "~/design/button";
import { Panel } from "~/design/panel";

/** Ways to begin: a blank page, a file, one of the ready-made strategies with its reason. */
export function StartFrom({ onFile }: { onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <div className="mb-3 flex gap-2">
        <Button look="primary" asChild>
          <Link to="?blank=1">Blank page</Link>
        </Button>
        <Button onClick={() => input.current?.click()}>From a file…</Button>
        <input
          ref={input}
          type="file"
          accept="application/json,.json"
          aria-label="Strategy file"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) onFile(file);
            event.target.value = "";
          }}
        />
      </div>
      <Panel
        title="Ready-made"
        note={`${READY_MADE_STRATEGIES.length} complete strategies in the Saltmarch scenario; a start to change, not a promise`}
      >
        <ul className="grid grid-cols-2 gap-x-6">
          {READY_MADE_STRATEGIES.map(({ strategy, market }) => (
            <li key={strategy.name} className="border-t border-edge/60 py-2">
              <Link to={`?start=${encodeURIComponent(strategy.name!)}`} className="font-semibold">
                {strategy.name}
              </Link>
              <span className="ml-2 text-sm text-ink-soft">
                {market === "share" ? "the shares of the board" : market} · {strategy.timeframe}
              </span>
              <p className="text-sm text-ink-soft">{strategy.notes}</p>
            </li>
          ))}
        </ul>
      </Panel>
    </>
  );
}
