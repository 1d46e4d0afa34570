/** How a handed-over page looks on a screen and on paper. It stands alone, so it has its colours in it. */
export const style = `
:root { color-scheme: light; }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 920px; padding: 28px 24px 40px; background: #f3f0e8; color: #1d2b2e;
  font: 15px/1.45 'IBM Plex Sans', system-ui, -apple-system, 'Segoe UI', sans-serif; font-variant-numeric: tabular-nums; }
header { border-left: 8px solid #b0412b; padding: 2px 0 2px 16px; margin-bottom: 22px; }
h1 { font-size: 23px; line-height: 1.25; margin: 0 0 6px; overflow-wrap: anywhere; }
h2 { font-size: 16px; margin: 26px 0 8px; padding-bottom: 4px; border-bottom: 1px solid #d9d3c4; }
h3 { font-size: 15px; margin: 0; }
h3 span { font-weight: 400; color: #4a595b; }
p { margin: 4px 0; overflow-wrap: anywhere; }
.kind { color: #93311e; font-weight: 600; }
.cause { font-size: 16px; }
.soft, footer, figcaption { color: #4a595b; }
.note { background: #fbf9f4; border: 1px solid #d9d3c4; padding: 8px 10px; white-space: pre-wrap; }
dl { display: grid; grid-template-columns: 150px minmax(0, 1fr); gap: 3px 14px; margin: 0; }
dt { color: #4a595b; }
dd { margin: 0; overflow-wrap: anywhere; }
pre { background: #fbf9f4; border: 1px solid #d9d3c4; padding: 8px 10px; margin: 8px 0 0; overflow: auto; max-height: 320px;
  white-space: pre-wrap; overflow-wrap: anywhere; font: 13px/1.4 'IBM Plex Mono', ui-monospace, monospace; }
table { width: 100%; border-collapse: collapse; }
th { text-align: left; color: #4a595b; font-weight: 500; border-bottom: 1px solid #d9d3c4; padding: 3px 10px 3px 0; }
td { vertical-align: top; border-bottom: 1px solid #e7e1d4; padding: 3px 10px 3px 0; overflow-wrap: anywhere; }
.counts { white-space: nowrap; width: 1%; }
.number { white-space: nowrap; text-align: right; width: 1%; }
tr.failed td { background: #f4d9d0; }
tr.failed b, tr.error td:nth-child(2) { color: #93311e; }
tr.warning td:nth-child(2) { color: #7d5200; }
.said, .address { font: 13px/1.4 'IBM Plex Mono', ui-monospace, monospace; white-space: pre-wrap; overflow-wrap: anywhere; }
.suspect { margin: 0 0 10px; padding-left: 12px; border-left: 4px solid #9aa8a8; }
.suspect:first-of-type { border-left-color: #b0412b; }
.suspect ul { list-style: none; margin: 2px 0 0; padding: 0; }
.for b { color: #93311e; }
.against b { color: #165a68; }
.request { margin-bottom: 10px; }
.pictures { display: grid; grid-template-columns: 1fr 1fr; gap: 14px; }
figure { margin: 0; }
figure:first-child { grid-column: 1 / -1; }
img { display: block; max-width: 100%; height: auto; border: 1px solid #9aa8a8; }
ol, ul { margin: 0; padding-left: 22px; }
li { margin: 3px 0; overflow-wrap: anywhere; }
a { color: #165a68; }
footer { margin-top: 30px; border-top: 1px solid #d9d3c4; padding-top: 8px; font-size: 13px; }
@page { size: A4; margin: 14mm; }
@media print {
  body { background: none; max-width: none; padding: 0; font-size: 10.5pt; }
  pre { max-height: none; }
  tr, figure, .suspect, li { break-inside: avoid; }
  h2 { break-after: avoid; }
  img { max-height: 210mm; max-width: 100%; width: auto; }
}
`;
