export function loader(): never {
  throw new Response("No page has this address.", { status: 404, statusText: "Not found" });
}

export default function NotFound() {
  return null;
}
