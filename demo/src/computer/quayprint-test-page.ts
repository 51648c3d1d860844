/**
 * What the invented driver prints as its test page: a boarding pass as PDF (ISO 32000-1) whose barcode is as high as the
 * driver's own settings let it be. A program for the Python that every Debian desktop has.
 */
export const testPageProgram = String.raw`#!/usr/bin/python3
import re, sys

HEIGHT_MM = 24
POINTS_PER_MM = 72 / 25.4
settings = open("/usr/share/quayprint-driver/defaults.conf", encoding="utf-8").read()
height = min(HEIGHT_MM, float(re.search(r"(?m)^barcode-height\s*=\s*(\d+)", settings).group(1)))

def say(x, y, size, text):
    return f"BT /F1 {size} Tf {x * POINTS_PER_MM:.2f} {y * POINTS_PER_MM:.2f} Td ({text}) Tj ET\n"

drawn = say(20, 270, 18, "Marrowick Ferries") + say(20, 261, 12, "Puffin, Tern Quay 08:40, PF-2231")
left = 20.0
for letter in "PF-2231":
    for bit in f"{ord(letter):08b}":
        wide = 0.9 if bit == "1" else 0.45
        drawn += f"{left * POINTS_PER_MM:.2f} {225 * POINTS_PER_MM:.2f} {wide * POINTS_PER_MM:.2f} {height * POINTS_PER_MM:.2f} re f\n"
        left += wide + 0.45

objects = [
    "<< /Type /Catalog /Pages 2 0 R >>",
    "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
    "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595.28 841.89] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
    f"<< /Length {len(drawn)} >>\nstream\n{drawn}endstream",
    "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
]
out, starts = "%PDF-1.4\n", []
for number, body in enumerate(objects, 1):
    starts.append(len(out))
    out += f"{number} 0 obj\n{body}\nendobj\n"
table = "".join(f"{start:010d} 00000 n \n" for start in starts)
tail = f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n{table}trailer\n<< /Size {len(objects) + 1} /Root 1 0 R >>\nstartxref\n{len(out)}\n%%EOF\n"
sys.stdout.write(out + tail)
`;
