import { useFetcher } from "react-router";
import { Button } from "~/design/button";
import { Problems } from "~/design/panel";

/** A button that asks the page's action for something, and says what stands against it. */
export function PostButton({ intent, version, children }: { intent: string; version: number; children: string }) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  return (
    <span>
      <Button
        disabled={fetcher.state !== "idle"}
        onClick={() => void fetcher.submit({ intent, version: String(version) }, { method: "post" })}
      >
        {children}
      </Button>
      <Problems problems={fetcher.data?.problems ?? []} />
    </span>
  );
}
