export const quantile = (values: readonly number[], q: number): number | undefined =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * q))];
