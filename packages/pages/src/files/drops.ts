const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

/** Files and folders dropped anywhere on the page: a browser would go away to them instead. Ends with the returned function. */
export function listenForDrops(hear: { over(isOver: boolean): void; dropped(data: DataTransfer): void }): () => void {
  const over = (event: DragEvent) => {
    if (!hasFiles(event)) return;
    event.preventDefault();
    hear.over(true);
  };
  const leave = (event: DragEvent) => {
    if (event.relatedTarget === null) hear.over(false);
  };
  const drop = (event: DragEvent) => {
    if (!hasFiles(event) || !event.dataTransfer) return;
    event.preventDefault();
    hear.over(false);
    hear.dropped(event.dataTransfer);
  };
  window.addEventListener('dragover', over);
  window.addEventListener('dragleave', leave);
  window.addEventListener('drop', drop);
  return () => {
    window.removeEventListener('dragover', over);
    window.removeEventListener('dragleave', leave);
    window.removeEventListener('drop', drop);
  };
}
