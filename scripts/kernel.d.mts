/** The module that the ray kernel's source compiles to, as text. */
export function compileKernel(): string;
