import { createEventStream } from "h3";
import { route } from "../answers";

/** Messages that may wait for a page that reads slowly; after that it misses some, and asks anew when it can. */
const MOST_WAITING = 200;

/** Server-sent events: jobs as they go on, and assets whose state moved. Each message is made once for all pages. */
export default route(async (event, { queue }) => {
  const stream = createEventStream(event);
  let waiting = 0;
  const push = (message: string) => {
    if (waiting >= MOST_WAITING) return;
    waiting++;
    stream
      .push(message)
      .catch(() => {})
      .finally(() => waiting--);
  };
  queue.on("event", push);
  stream.onClosed(async () => {
    queue.off("event", push);
    await stream.close().catch(() => {});
  });
  push(JSON.stringify({ kind: "hello" }));
  return stream.send();
});
