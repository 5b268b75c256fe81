import type { FromView, ToView } from "../shared/messages";
import { TableView } from "./table-view";

let view: TableView | null = null;
const tell = (message: FromView) => postMessage(message);

self.onmessage = (event: MessageEvent<ToView>) => {
  const message = event.data;
  try {
    if (message.kind === "start") view = new TableView(message.canvas, tell);
    else view?.handle(message);
  } catch (error) {
    tell({
      kind: "failed",
      message: error instanceof Error ? error.message : String(error),
    });
  }
};
