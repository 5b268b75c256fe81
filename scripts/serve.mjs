// The server: opens the data folder as its one user, then listens. Ends with one clear line where either fails.
import { createServer } from "node:http";
import { fileURLToPath } from "node:url";

process.env.ARNIK_ROOT ??= fileURLToPath(new URL("..", import.meta.url));
const port = Number(process.env.PORT ?? "3000");
const host = process.env.ARNIK_LISTEN ?? "127.0.0.1";

const say = (error) =>
  process.stderr.write(
    `arnik: ${(error instanceof Error ? error.message : String(error)).replace(/\s*\n\s*/g, " ")}\n`,
  );
// A fault in one answer is no reason to drop all others: the store is written by transactions elsewhere.
process.on("uncaughtException", say);
process.on("unhandledRejection", say);

/** Whoever uses the data folder; null where it can't be used. */
async function opened() {
  try {
    return await globalThis[Symbol.for("arnik.home")];
  } catch (error) {
    say(error);
    return null;
  }
}

const { listener } = await import("../.output/server/index.mjs");
const home = await opened();
if (!home) process.exit(1);

const server = createServer(listener);
const stop = async (code) => {
  server.close();
  server.closeAllConnections();
  await home.close();
  process.exit(code);
};
server.on("error", (error) => {
  say(
    error.code === "EADDRINUSE"
      ? `port ${port} is in use: PORT names another one`
      : error,
  );
  void stop(1);
});
server.listen(port, host, () =>
  process.stdout.write(`Arnik: http://${host}:${server.address().port}\n`),
);
for (const signal of ["SIGINT", "SIGTERM"])
  process.once(signal, () => void stop(0));
