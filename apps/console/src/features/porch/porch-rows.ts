/* Rows of the porch, whichever list they stand in: `data-row`, what they are for `data-main`, a code to copy `data-copy`. */
const ROW = '[data-row]';

/**
 * Arrows go from row to row, Enter does what a row is for, C copies its code. A row is reached by an arrow from the start
 * field, or from anything in another row; what is pressed in a field or on a button is theirs.
 */
export function handleRowKey(event: KeyboardEvent): void {
  const at = event.target as HTMLElement;
  if (event.altKey || event.ctrlKey || event.metaKey || at.matches('input, textarea, select')) return;
  const row = at.closest<HTMLElement>(ROW);
  if (!row) return;
  const rows = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>(ROW)];
  const move = (to: HTMLElement | undefined) => {
    event.preventDefault();
    to?.focus();
  };
  if (event.key === 'ArrowDown') move(rows[rows.indexOf(row) + 1]);
  else if (event.key === 'ArrowUp')
    move(rows[rows.indexOf(row) - 1] ?? document.querySelector<HTMLElement>('#start-field') ?? undefined);
  else if (event.key.toLowerCase() === 'c') row.querySelector<HTMLElement>('[data-copy]')?.click();
  else if (event.key === 'Enter' && at === row) {
    event.preventDefault();
    row.querySelector<HTMLElement>('[data-main]')?.click();
  }
}

/** From the start field into the first row. */
export function intoRows(event: KeyboardEvent): void {
  if (event.key !== 'ArrowDown') return;
  event.preventDefault();
  document.querySelector<HTMLElement>(ROW)?.focus();
}
