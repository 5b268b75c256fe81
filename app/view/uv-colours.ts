import type { Mesh } from "../../core/mesh/mesh";
import { faceCount } from "../../core/mesh/mesh";
import { texelWeight } from "../../core/mesh/texel-weights";
import type { Overlay } from "../shared/view-types";
import { ramp } from "./face-colours";
import type { ViewState } from "../shared/messages";
import { splitOf } from "./split";

const UV_OVERLAYS = ["angles", "areas", "texels"] as const;
export type UvOverlay = (typeof UV_OVERLAYS)[number];

export const isUvOverlay = (overlay: Overlay): overlay is UvOverlay =>
  (UV_OVERLAYS as readonly string[]).includes(overlay);

/** Ends of the scales: conformal distortion, area and texel density against what is meant. */
export const MOST_ANGLE = 1.5;
export const MOST_AREA = 1.5;
export const MOST_TEXELS = 2;

/** 3 × faceCount colours by how UVs stretch the surface, or null without UVs. */
export function uvColours(
  mesh: Mesh,
  overlay: UvOverlay,
  state: Pick<ViewState, "sheetWidth" | "sheetHeight" | "texels">,
): Float32Array | null {
  const { uvs, positions: p } = mesh;
  if (!uvs) return null;
  const { corners, vertices, faces } = splitOf(mesh);
  const area = new Float64Array(faceCount(mesh));
  const angle = new Float64Array(area.length);
  const log = new Float64Array(area.length);
  let all = 0;
  let mean = 0;
  for (let t = 0; t < faces.length; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[3 * t + k]);
    const [i, j, k] = [0, 1, 2].map((n) => 2 * corners[3 * t + n]);
    const u = [0, 1, 2].map((n) => p[b + n] - p[a + n]);
    const v = [0, 1, 2].map((n) => p[c + n] - p[a + n]);
    const long = Math.hypot(...u);
    const double = Math.hypot(
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    );
    if (!(double > 0)) continue;
    const x2 = (u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) / long;
    const y2 = double / long;
    const s1 = (uvs[j] - uvs[i]) * state.sheetWidth;
    const t1 = (uvs[j + 1] - uvs[i + 1]) * state.sheetHeight;
    const s2 = (uvs[k] - uvs[i]) * state.sheetWidth;
    const t2 = (uvs[k + 1] - uvs[i + 1]) * state.sheetHeight;
    const ja = s1 / long;
    const jc = t1 / long;
    const jb = (s2 - ja * x2) / y2;
    const jd = (t2 - jc * x2) / y2;
    const det = Math.abs(ja * jd - jb * jc) || 1e-12;
    const norm = ja * ja + jb * jb + jc * jc + jd * jd;
    const f = faces[t];
    const size = double / 2;
    const even =
      Math.log(det) / 2 - Math.log(texelWeight(mesh.texelWeights?.[f] ?? 0));
    area[f] += size;
    angle[f] += (size * norm) / (2 * det);
    log[f] += size * even;
    all += size;
    mean += size * even;
  }
  const usual =
    state.texels > 0 && overlay === "texels"
      ? Math.log(state.texels)
      : mean / (all || 1);
  const colours = new Float32Array(3 * area.length);
  for (let f = 0; f < area.length; f++) {
    const own = area[f] > 0 ? log[f] / area[f] - usual : 0;
    const share = {
      angles: (angle[f] / (area[f] || 1) - 1) / (MOST_ANGLE - 1),
      areas: 0.5 + own / (2 * Math.log(MOST_AREA)),
      texels: 0.5 + own / (2 * Math.log(MOST_TEXELS)),
    }[overlay];
    colours.set(ramp(share), 3 * f);
  }
  return colours;
}
