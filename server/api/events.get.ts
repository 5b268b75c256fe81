import { createEventStream } from "h3";
import { describeJob, route } from "../answers";
import type { QueueEvent } from "../jobs/queue";

/** Server-sent events: jobs as they go on, and assets whose state moved. */
export default route(async (event, { store, queue }) => {
  const stream = createEventStream(event);
  const listen = (what: QueueEvent) => {
    void (async () => {
      const data =
        what.kind === "job"
          ? { kind: "job", job: describeJob(await store.job(what.job), queue) }
          : what;
      await stream.push(JSON.stringify(data));
    })().catch(() => {});
  };
  queue.on("event", listen);
  stream.onClosed(async () => {
    queue.off("event", listen);
    await stream.close();
  });
  void stream.push(JSON.stringify({ kind: "hello" }));
  return stream.send();
});
