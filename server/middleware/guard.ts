import { createError, defineEventHandler, getRequestHeader } from "h3";

/** Names this server answers to: the machine itself, and what ARNIK_HOSTS adds. */
const HOSTS = new Set([
  "127.0.0.1",
  "localhost",
  "[::1]",
  ...(process.env.ARNIK_HOSTS ?? "").split(",").filter(Boolean),
]);

/** Turns away pages of other sites: by the Host they call and by the Origin they come from. */
export default defineEventHandler((event) => {
  const host = getRequestHeader(event, "host") ?? "";
  if (!HOSTS.has(host.replace(/:\d+$/, "").toLowerCase()))
    throw createError({ statusCode: 421, statusMessage: "Unknown host" });
  const origin = getRequestHeader(event, "origin");
  const safe = event.method === "GET" || event.method === "HEAD";
  if (origin && !safe && origin.replace(/^https?:\/\//, "") !== host)
    throw createError({ statusCode: 403, statusMessage: "Foreign origin" });
  if (!safe && getRequestHeader(event, "sec-fetch-site") === "cross-site")
    throw createError({ statusCode: 403, statusMessage: "Foreign origin" });
});
