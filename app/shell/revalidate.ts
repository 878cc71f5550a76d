import type { ShouldRevalidateFunction } from "react-router";

/**
 * For pages whose data does not rest on the address's search: what is chosen, sorted or filtered there loads nothing
 * again. What was sent to the server does.
 */
export const unlessSearch: ShouldRevalidateFunction = ({ currentUrl, nextUrl, formAction, defaultShouldRevalidate }) =>
  formAction === undefined && currentUrl.pathname === nextUrl.pathname && currentUrl.search !== nextUrl.search
    ? false
    : defaultShouldRevalidate;
