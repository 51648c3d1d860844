/** The same words in another language: every key of the first, and none besides. */
export type SameKeys<T> = { readonly [K in keyof T]: T[K] extends string ? string : SameKeys<T[K]> };
