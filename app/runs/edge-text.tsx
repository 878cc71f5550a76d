import type { EdgeLevel } from "#core/reading";
import { decimal } from "~/design/format";

/** How many times its costs an account would bear, in a sentence. */
export function EdgeText({ edge }: { edge: EdgeLevel }) {
  return (
    <p className="text-lg" data-edge={edge.times ?? ""}>
      {edge.why === "found" ? (
        <>
          At <span className="figure-text font-semibold">{decimal(edge.times, 2)}</span> times these costs nothing is left.
        </>
      ) : edge.why === "beyond" ? (
        "Even at 32 times these costs something is left. Are they what trading costs?"
      ) : (
        "There is nothing left even without any costs: costs are not what is wrong."
      )}
    </p>
  );
}
