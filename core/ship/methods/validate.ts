import { ArnikError } from "../../base/errors";

export interface ValidatorCounts {
  errors: number;
  warnings: number;
  infos: number;
}

/** The Khronos validator's count of a GLB, or of a glTF with its data inside. @throws ArnikError naming the first error */
export async function validateGlb(
  name: string,
  bytes: Uint8Array,
): Promise<ValidatorCounts> {
  const { validateBytes } = await import("gltf-validator");
  const { issues } = await validateBytes(bytes, { uri: name, maxIssues: 20 });
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
