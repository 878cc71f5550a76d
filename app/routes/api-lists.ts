import type { Route } from "./+types/api-lists";

/** The lists that narrow the choice of a market. */
export async function loader({ context }: Route.LoaderArgs) {
  return (await context.services.lists.list()).map(({ id, name, kind, symbols }) => ({ id, name, kind, symbols }));
}
