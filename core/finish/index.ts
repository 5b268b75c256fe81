export { setLook } from "./operations/look";
