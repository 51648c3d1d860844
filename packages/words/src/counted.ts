/** A message that may say how many, as it is written in some languages and for some things. */
export const counted = (said: string | ((of: { readonly count: number }) => string), count: number): string =>
  typeof said === 'string' ? said : said({ count });
