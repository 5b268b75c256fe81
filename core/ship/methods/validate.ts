import { ArnikError } from "../../base/errors";

/** How grave the validator takes an issue that only informs. */
const INFORMATION = 2;

export interface ValidatorCounts {
  errors: number;
  warnings: number;
  infos: number;
}

/**
 * The Khronos validator's count of a GLB, or of a glTF with its data inside.
 * @param tangents whether they were to be written: where they were not, that they are missing is no warning
 * @throws ArnikError naming the first error
 */
export async function validateGlb(
  name: string,
  bytes: Uint8Array,
  tangents = true,
): Promise<ValidatorCounts> {
  const { validateBytes } = await import("gltf-validator");
  const { issues } = await validateBytes(bytes, {
    uri: name,
    maxIssues: 20,
    severityOverrides: tangents
      ? {}
      : { MESH_PRIMITIVE_GENERATED_TANGENT_SPACE: INFORMATION },
  });
  if (issues.numErrors > 0) {
    const first = issues.messages.find((message) => message.severity === 0);
    throw new ArnikError(
      `${name} does not pass the glTF validator: ${first?.message} (${first?.pointer})`,
    );
  }
  return {
    errors: issues.numErrors,
    warnings: issues.numWarnings,
    infos: issues.numInfos,
  };
}
