import { Problems } from "~/design/panel";
import type { PartState } from "./use-part";

/** What stands in the place of a run's columns until they are there, or why they will not be. */
export function PartWaits({ parts, what, height = 200 }: { parts: readonly PartState<unknown>[]; what: string; height?: number }) {
  const error = parts.find((part) => part.error !== null)?.error;
  if (error)
    return <Problems problems={[{ path: "", message: `${error}; load the page again to try once more` }]} title="This can't be shown" />;
  return (
    <p className="grid place-items-center text-ink-soft" style={{ height }} role="status">
      Reading {what} …
    </p>
  );
}
