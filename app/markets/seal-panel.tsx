import { useState } from "react";
import { Link, useFetcher } from "react-router";
import type { Opening } from "#server/seals";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { momentText } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { SignedAct } from "~/probes/signed-act";

interface Props {
  symbol: string;
  /** first sealed date; null without a seal */
  seal: string | null;
  openings: readonly Opening[];
}

/** The market's seal: from which date on nobody looks at its bars, and every look behind it. */
export function SealPanel({ symbol, seal, openings }: Props) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const [from, setFrom] = useState(seal ?? "");
  const [moving, setMoving] = useState(false);
  return (
    <Panel title="Hold-out" note="the last stretch, sealed until a probe opens it" className="mt-3">
      {seal === null ? (
        <>
          <p className="max-w-[76ch]">
            {symbol} has no seal. From a date on that nothing has looked at, charts, tables, statistics, exports and the command line stop
            there; a hold-out probe opens it, once, with a reason.
          </p>
          <form
            className="mt-2 flex items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              void fetcher.submit({ intent: "seal", symbol, from }, { method: "post" });
            }}
          >
            <Field label="Sealed from" type="date" value={from} onChange={(event) => setFrom(event.target.value)} />
            <Button type="submit" disabled={fetcher.state !== "idle"}>
              Seal it
            </Button>
          </form>
          <Problems problems={fetcher.data?.problems ?? []} />
        </>
      ) : (
        <>
          <p>
            Sealed from <span className="figure-text">{seal}</span> on. What is imported or fetched behind it is kept, and shown to nobody.
          </p>
          <Button small look="quiet" className="mt-1" onClick={() => setMoving(true)}>
            Move the seal on…
          </Button>
          <SignedAct
            open={moving}
            onOpenChange={setMoving}
            title="Move the seal on"
            about="What lies between the old date and the new one becomes part of the data for good. It counts as looked at, and can’t be sealed again."
            fields={{ intent: "seal", symbol, from }}
            act="Move the seal"
          >
            <Field label="Sealed from" type="date" value={from} onChange={(event) => setFrom(event.target.value)} />
          </SignedAct>
        </>
      )}
      {openings.length > 0 && (
        <ul aria-label="Looks behind the seal" className="mt-2">
          {openings.map((one) => (
            <li key={one.id} className="border-t border-edge/60 py-1">
              <span className="figure-text text-sm">{momentText(one.at)}</span>{" "}
              {one.version === null ? (
                "the seal was moved on"
              ) : (
                <Link to={`/strategies/${one.version.strategyId}/evidence?v=${one.version.number}`}>
                  {one.version.name} v{one.version.number}
                </Link>
              )}{" "}
              saw {one.from} to {one.to}, by {one.name}: “{one.reason}”
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}
