/** What an instrument can be. */
export const MARKET_KINDS = ["share", "future", "currency", "index", "bond", "option"] as const;
