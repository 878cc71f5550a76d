import type { Weighting } from "./document";
import type { WeightMode } from "./weights";

export const MODE_WORDS: Record<WeightMode, { name: string; about: string }> = {
  given: { name: "by hand", about: "each weight as you set it" },
  equal: { name: "equal", about: "the same for every member" },
  inverseVolatility: { name: "inverse volatility", about: "the calmer a member alone, the more it gets" },
  riskParity: { name: "equal risk", about: "every member adds the same to the volatility of the whole (risk parity)" },
  minimumVariance: { name: "minimum variance", about: "the calmest of all mixtures" },
  maximumDiversification: {
    name: "maximum diversification",
    about: "the mixture that is calmest against the mean volatility of its parts (Choueifaty and Coignard 2008)",
  },
};

const share = (x: number): string => `${Number((100 * x).toFixed(1))} %`;

/** A way of weighting in a sentence's words. */
export function weightingWords({ mode, from, to, least, most, shrink, every }: Weighting): string {
  const parts = [`weights ${mode === "given" || mode === "equal" ? MODE_WORDS[mode].name : `by ${MODE_WORDS[mode].name}`}`];
  if (mode === "given" || mode === "equal") return parts[0];
  parts.push(`estimated ${from} to ${to}`);
  if (least !== undefined) parts.push(`at least ${share(least)}`);
  if (most !== undefined) parts.push(`at most ${share(most)}`);
  if (shrink) parts.push("covariance shrunk");
  if (every !== undefined) parts.push(`anew every ${every === 1 ? "month" : `${every} months`}`);
  return parts.join(", ");
}

interface Described {
  name: string;
  members: readonly {
    name: string;
    version: string;
    markets: readonly string[];
    weight: number;
    marketLimit?: number;
    condition?: { rule: string; while: string };
  }[];
  weighting: Weighting;
}

/** What changed from one portfolio to another, in sentences; run settings are told apart elsewhere. */
export function portfolioDifference(before: Described, now: Described): string[] {
  const out: string[] = [];
  if (before.name !== now.name) out.push(`Renamed from “${before.name}” to “${now.name}”.`);
  const [w, v] = [weightingWords(before.weighting), weightingWords(now.weighting)];
  if (w !== v) out.push(`Instead of ${w}: ${v}.`);
  const given = now.weighting.mode === "given";
  for (const member of now.members) {
    const old = before.members.find(({ name }) => name === member.name);
    if (old === undefined) {
      out.push(
        `${member.name} (${member.version}) came in on ${member.markets.join(", ")}${given ? ` with ${share(member.weight)}` : ""}.`,
      );
      continue;
    }
    if (old.version !== member.version) out.push(`${member.name}: ${member.version} instead of ${old.version}.`);
    if (old.markets.join() !== member.markets.join())
      out.push(`${member.name}: on ${member.markets.join(", ")} instead of ${old.markets.join(", ")}.`);
    if (given && share(old.weight) !== share(member.weight)) out.push(`${member.name}: ${share(old.weight)} → ${share(member.weight)}.`);
    if (old.marketLimit !== member.marketLimit)
      out.push(`${member.name}: at most ${member.marketLimit ?? "all"} markets at once instead of ${old.marketLimit ?? "all"}.`);
    const [c, d] = [old, member].map(({ condition }) => (condition ? `while “${condition.rule}” says ${condition.while}` : "at all times"));
    if (c !== d) out.push(`${member.name}: ${d} instead of ${c}.`);
  }
  for (const old of before.members) if (!now.members.some(({ name }) => name === old.name)) out.push(`${old.name} was taken out.`);
  return out;
}
