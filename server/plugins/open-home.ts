import { defineNitroPlugin } from "nitropack/runtime";
import { home } from "../home";

/** Opens the store at start, so that jobs a crash left behind are marked before anybody looks. */
export default defineNitroPlugin(() => {
  // Where it can't be opened, whoever started the server says so and ends it.
  home().catch(() => {});
});
