import { html, raw } from 'hono/html';
import { extras, ports, taken, type Sailing } from './timetable.ts';
import type { Board, Visit } from './visits.ts';

type Html = ReturnType<typeof html>;

function page(title: string, body: Html, data: Record<string, string> = {}): Html {
  const attributes = Object.entries(data).map(([key, value]) => html` data-${raw(key)}="${value}"`);
  return html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <title>${title} · Lodos Ferries</title>
        <link rel="icon" href="data:," />
        <link rel="stylesheet" href="/client/shop.css" />
      </head>
      <body ${attributes}>
        <header>
          <a href="/" class="brand">Lodos Ferries</a>
          <nav><a href="/sailings?to=Kuzu%20Island">Timetable</a></nav>
        </header>
        <main>${body}</main>
        <script type="module" src="/client/shop.js"></script>
      </body>
    </html>`;
}

export const homePage = (visit: Visit): Html =>
  page(
    'Where to',
    html`<h1>Where would you like to go?</h1>
      <form id="search" action="/sailings">
        <label for="port">To</label>
        <div class="combo">
          <input id="port" name="to" autocomplete="off" placeholder="Port" role="combobox" />
          <ul id="suggestions" role="listbox" hidden></ul>
        </div>
        <label for="date">Day</label>
        <input id="date" name="date" type="date" value="2026-11-23" />
        <button type="submit">Show sailings</button>
      </form>`,
    { popular: visit.popularFirst ? 'first' : '', ports: visit.portsAtHand ? ports.join('|') : '' },
  );

export const timetablePage = (to: string, list: readonly Sailing[], board: Board): Html =>
  page(
    'Timetable',
    html`<h1>Sailings to ${to || 'every port'}</h1>
      <p class="count">${list.length} sailings</p>
      <table class="timetable">
        <tr>
          <th>Leaves</th>
          <th>Sailing</th>
          <th>To</th>
          <th></th>
        </tr>
        ${list.map(
          (s) =>
            html`<tr class="${s.cancelled ? 'cancelled' : ''}">
              <td>${s.time}</td>
              <td>${s.name}</td>
              <td>${s.to}</td>
              <td>
                ${s.cancelled ? html`<span class="state">cancelled</span>` : html`<a href="/sailings/${s.id}">Choose</a>`}
              </td>
            </tr>`,
        )}
      </table>
      ${list.length ? '' : html`<p class="empty">No sailings to this port. Known ports: ${ports.join(', ')}.</p>`}
      ${board === 'throws' ? '' : html`<p class="board"></p>`}`,
    { board },
  );

export const seatPanel = (sailing: Sailing, render: number): Html =>
  html`<div class="seats" role="group" aria-label="Seats">
      ${[1, 2, 3, 4].map((row) => ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H'].map((letter) => seat(`${row}${letter}`)))}
    </div>
    <p class="legend">Pick a seat; grey ones are taken.</p>
    <div class="extras">
      ${Object.entries(extras).map(([name, price]) => html`<label><input type="checkbox" name="${name}" /> ${name} (${price})</label>`)}
    </div>
    <button id="hold" type="button" data-render="${String(render)}" data-sailing="${sailing.id}">Hold seat</button>`;

const seat = (name: string): Html =>
  html`<button
    type="button"
    class="seat"
    data-seat="${name}"
    aria-label="Seat ${name}"
    ${taken.has(name) ? raw('disabled') : ''}
  >
    ${name}
  </button>`;

export const sailingPage = (sailing: Sailing, visit: Visit, weather: string): Html =>
  page(
    sailing.name,
    html`<div id="notice" class="notice ${visit.noticeSlides ? 'slides' : 'inline'}" role="status"></div>
      <h1>${sailing.name} ${sailing.time} → ${sailing.to}</h1>
      <div class="fields">
        <label for="passenger">Passenger</label><input id="passenger" name="passenger" />
        <span>Fare <b class="fare">…</b></span>
      </div>
      <section id="seat-panel" data-settled="no">${seatPanel(sailing, 1)}</section>
      <p id="held" hidden></p>`,
    { sailing: sailing.id, weather, anew: visit.panelAnew ? 'yes' : '' },
  );

export const checkoutPage = (hold: { id: string; name: string; seat: string; fare: number }): Html =>
  page(
    'Checkout',
    html`<h1>Checkout</h1>
      <p>
        Seat <b class="seat-name">${hold.seat}</b> for <b class="holder">${hold.name}</b>,
        <b class="total">${hold.fare}</b> to pay
      </p>
      <form id="pay">
        <label for="card">Card</label><input id="card" name="card" autocomplete="off" />
        <label for="code">Passphrase</label><input id="code" name="code" type="password" />
        <button type="submit">Pay</button>
      </form>
      <p id="paid" hidden></p>`,
    { hold: hold.id },
  );

export const passPage = (hold: { name: string; seat: string; reference: string }): Html =>
  page(
    'Boarding pass',
    html`<h1>Boarding pass</h1>
      <dl>
        <dt>Passenger</dt>
        <dd class="holder">${hold.name}</dd>
        <dt>Seat</dt>
        <dd class="seat-name">${hold.seat}</dd>
        <dt>Reference</dt>
        <dd class="reference">${hold.reference}</dd>
      </dl>`,
  );
