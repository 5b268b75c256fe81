import { ArnikError } from "../../base/errors";

/** How grave the validator takes an issue that only informs. */
const INFORMATION = 2;

export interface ValidatorCounts {
  errors: number;
  warnings: number;
  infos: number;
}

/** It has no list entry for a kind of picture that an extension brings. */
const UNLISTED = /^Invalid value 'image\/ktx2'/;

/**
 * The Khronos validator's count of a GLB, or of a glTF with its data inside. It knows no KTX2 pictures: that it does not
 * is no warning, and whoever wrote them has read them again.
 * @param tangents whether they were to be written: where they were not, that they are missing is no warning
 * @throws ArnikError naming the first error
 */
export async function validateGlb(
  name: string,
  bytes: Uint8Array,
  { tangents = true, ktx2 = false } = {},
): Promise<ValidatorCounts> {
  const { validateBytes } = await import("gltf-validator");
  const { issues } = await validateBytes(bytes, {
    uri: name,
    maxIssues: 1000,
    severityOverrides: {
      ...(!tangents && { MESH_PRIMITIVE_GENERATED_TANGENT_SPACE: INFORMATION }),
      ...(ktx2 && { IMAGE_UNRECOGNIZED_FORMAT: INFORMATION }),
    },
  });
  const unlisted = issues.messages.filter(
    ({ message }) => ktx2 && UNLISTED.test(message),
  ).length;
  if (issues.numErrors > 0) {
    const first = issues.messages.find((message) => message.severity === 0);
    throw new ArnikError(
      `${name} does not pass the glTF validator: ${first?.message} (${first?.pointer})`,
    );
  }
  return {
    errors: issues.numErrors,
    warnings: issues.numWarnings - unlisted,
    infos: issues.numInfos + unlisted,
  };
}
