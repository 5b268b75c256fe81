export { packAsProject } from "./operations/pack-project";
export { setProfile } from "./operations/set-profile";
export { shipAsset } from "./operations/ship";
export { makeTurntable } from "./operations/turntable";
