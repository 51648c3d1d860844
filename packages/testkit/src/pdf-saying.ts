/** A page of A4 that says something, as a program would print it (ISO 32000-1, 7.5). */
export function pdfSaying(text: string): Buffer {
  const drawn = `BT /F1 24 Tf 72 700 Td (${text.replace(/[\\()]/g, '\\$&')}) Tj ET`;
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    '<< /Type /Pages /Kids [3 0 R] /Count 1 >>',
    '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>',
    `<< /Length ${drawn.length} >>\nstream\n${drawn}\nendstream`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
  ];
  let out = '%PDF-1.4\n';
  const starts = objects.map((object, i) => {
    const at = out.length;
    out += `${i + 1} 0 obj\n${object}\nendobj\n`;
    return at;
  });
  const table = starts.map((at) => `${String(at).padStart(10, '0')} 00000 n \n`).join('');
  const head = `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${table}`;
  return Buffer.from(
    `${out}${head}trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${out.length}\n%%EOF\n`,
  );
}
