import { createServer } from "node:http";
import { FEED_START } from "./book";
import { createFeed } from "./app";
import { FeedClock } from "./clock";

const port = Number(process.env.CANYON_FEED_PORT ?? 5078);
const speed = Number(process.env.CANYON_FEED_SPEED ?? 60);
const server = createServer(createFeed(new FeedClock(FEED_START, Number.isFinite(speed) && speed >= 0 ? speed : 60)).app);
server.on("error", (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === "EADDRINUSE"
      ? `Port ${port} of the simulated data service is taken. Choose another one: CANYON_FEED_PORT=${port + 1} npm run demo`
      : `The simulated data service could not start: ${error.message}`,
  );
  process.exit(1);
});
server.listen(port, "127.0.0.1");
for (const signal of ["SIGINT", "SIGTERM"] as const)
  process.on(signal, () => {
    server.closeAllConnections();
    server.close(() => process.exit(0));
  });
