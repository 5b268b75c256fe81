declare module "gltf-validator" {
  interface Issue {
    code: string;
    message: string;
    severity: 0 | 1 | 2 | 3;
    pointer?: string;
  }
  interface ValidationReport {
    issues: {
      numErrors: number;
      numWarnings: number;
      numInfos: number;
      numHints: number;
      messages: Issue[];
    };
  }
  export function validateBytes(
    data: Uint8Array,
    options?: {
      uri?: string;
      maxIssues?: number;
      severityOverrides?: Record<string, number>;
    },
  ): Promise<ValidationReport>;
}
