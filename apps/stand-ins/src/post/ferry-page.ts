/** The ferry line's own web site, made up: shows the help box as another site would put it in. */
export const ferryPage = (deskUrl: string): string => `<!doctype html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width"><title>Marrowick Ferries</title><style>
body{font:17px/1.5 Georgia,serif;margin:0;background:#eef3f4;color:#20323a}header{background:#2f5d73;color:#fff;padding:1.5rem}
main{max-width:56rem;margin:1.5rem auto;padding:0 1.5rem;display:grid;gap:2rem;grid-template-columns:repeat(auto-fit,minmax(18rem,1fr))}
td,th{padding:.2rem .8rem .2rem 0;text-align:left}
</style><header><h1>Marrowick Ferries</h1>Staff pages · simulated, ships with Zesty Porch</header><main>
<section><h2>Today from Tern Quay</h2><table><tr><th>07:15</th><td>Lower Saltby</td></tr><tr><th>09:40</th><td>Petrel Head</td></tr><tr><th>12:05</th><td>Lower Saltby</td></tr></table></section>
<section><h2>Trouble with a computer?</h2><script src="${deskUrl}/embed.js" data-language="en" data-title="Help from the desk" async></script></section>
</main></html>`;
