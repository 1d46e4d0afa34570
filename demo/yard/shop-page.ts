/** A page of the shop: its usual frame around a body, and a script of its own. */
export const shopPage = (title: string, body: string, script = '', style = ''): string => `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width" />
    <title>${title} · Lodos Ferries</title>
    <link rel="icon" href="data:," />
    <style>
      body { font: 15px/1.5 sans-serif; margin: 0; color: #223; }
      header { background: #0d4e63; color: #fff; padding: 10px 18px; font-weight: 600; }
      main { padding: 14px 18px; }
      button { font: inherit; padding: 6px 12px; }
      ${style}
    </style>
  </head>
  <body>
    <header>Lodos Ferries</header>
    <main>${body}</main>
    <script>${script}</script>
  </body>
</html>`;
