import { defineNitroPlugin } from "nitropack/runtime";
import { home } from "../home";

/** Opens the store at start, so that jobs a crash left behind are marked before anybody looks. */
export default defineNitroPlugin(() => {
  void home();
});
