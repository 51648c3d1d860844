/** Whether two labels of devices are the same one: neither case nor blanks around it count. */
export const isSameLabel = (one: string, other: string): boolean =>
  one.trim().toLowerCase() === other.trim().toLowerCase();
