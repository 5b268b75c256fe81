export { setLook } from "./look";
