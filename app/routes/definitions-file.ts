import type { Route } from "./+types/definitions-file";

/** The user's own definitions as `canyon.definitions/1`. */
export async function loader({ context }: Route.LoaderArgs) {
  const file = await context.services.definitions.file();
  return new Response(`${JSON.stringify(file, null, 2)}\n`, {
    headers: { "Content-Type": "application/json", "Content-Disposition": 'attachment; filename="definitions.json"' },
  });
}
