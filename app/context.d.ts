import "react-router";
import type { Services } from "#server/services";

declare module "react-router" {
  interface AppLoadContext {
    services: Services;
    nonce: string;
  }
}
