import type { Route } from "./+types/cascade-file";

/** A cascade as the open document. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const cascade = await context.services.cascades.get(Number(params.id));
  if (cascade === null) throw new Response("There is no such cascade.", { status: 404 });
  const name = `${cascade.document.name.replace(/[^A-Za-z0-9_.-]+/g, "-")}.json`;
  return new Response(JSON.stringify(cascade.document, null, 2), {
    headers: { "Content-Type": "application/json", "Content-Disposition": `attachment; filename="${name}"` },
  });
}
