import type { Route } from "./+types/strategy-tries";

/** Counts what was tried on a strategy's line, and gives its ledger. */
export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const given: unknown = JSON.parse(String(form.get("tries")));
  return Response.json(await context.services.strategies.countTries(Number(params.id), readTries(given)));
}

/** Tries as a page sends them; what has another shape is a mistake of the page. */
export function readTries(given: unknown): { hash: string; from: string | null; to: string | null; markets: string | null }[] {
  if (!Array.isArray(given) || given.length > 1000) throw new Response("tries must be a list", { status: 400 });
  return given.map((one: unknown) => {
    const { hash, from, to, markets } = (one ?? {}) as Record<string, unknown>;
    if (typeof hash !== "string" || !/^[0-9a-f]{64}$/.test(hash)) throw new Response("a try has a hash", { status: 400 });
    return {
      hash,
      from: typeof from === "string" ? from : null,
      to: typeof to === "string" ? to : null,
      markets: typeof markets === "string" ? markets : null,
    };
  });
}
