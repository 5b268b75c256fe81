/** A copy of a plain value without what makes it reactive, as workers take it. */
export const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
