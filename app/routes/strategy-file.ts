import type { Route } from "./+types/strategy-file";

/** A version as `canyon.strategy/1`, to be kept or passed on. */
export async function loader({ context, params, request }: Route.LoaderArgs) {
  const number = new URL(request.url).searchParams.get("v");
  const versions = await context.services.strategies.versionsOf(Number(params.id));
  const version = number === null ? versions.at(-1) : versions.find((one) => one.number === Number(number));
  if (version === undefined) throw new Response("There is no such strategy or version.", { status: 404 });
  const name = `${version.strategyName.replace(/[^A-Za-z0-9]+/g, "-").toLowerCase()}-v${version.number}.json`;
  return new Response(`${JSON.stringify(version.strategy, null, 2)}\n`, {
    headers: { "Content-Type": "application/json", "Content-Disposition": `attachment; filename="${name}"` },
  });
}
