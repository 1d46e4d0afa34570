// The shop's own script: ordinary code of an ordinary shop.
const { sailing, weather, anew, popular, ports, hold, board } = document.body.dataset;
const one = (selector) => document.querySelector(selector);
const json = async (address, options) => (await fetch(address, options)).json();

// Port field with suggestions. Rows are kept and filled again, as many lists do.
const port = one('#port');
if (port) {
  const list = one('#suggestions');
  const show = (names) => {
    while (list.children.length < names.length) {
      const row = list.appendChild(document.createElement('li'));
      row.setAttribute('role', 'option');
      row.addEventListener('mousedown', (event) => event.preventDefault());
      row.addEventListener('click', () => {
        port.value = row.textContent;
        list.hidden = true;
      });
    }
    while (list.children.length > names.length) list.lastChild.remove();
    names.forEach((name, i) => {
      if (list.children[i].textContent !== name) list.children[i].textContent = name;
    });
    console.info(`suggestions: ${names.length}`);
  };
  let asked = 0;
  let waiting = 0;
  const ask = async () => {
    const mine = ++asked;
    const names = await json(`/api/ports?q=${encodeURIComponent(port.value)}`);
    if (mine !== asked) return;
    show(names);
    if (!popular) list.hidden = names.length === 0;
  };
  port.addEventListener('focus', async () => {
    if (!popular) return;
    show(['Lodos Harbour', 'Martı Bay', 'Old Lighthouse']);
    list.hidden = false;
  });
  port.addEventListener('input', () => {
    clearTimeout(waiting);
    if (ports) return show(ports.split('|').filter((name) => name.toLowerCase().startsWith(port.value.toLowerCase())));
    waiting = setTimeout(ask, 15);
  });
}

// Timetable: what the harbour has to say.
if (board) {
  if (board === 'throws') addEventListener('error', (event) => event.preventDefault());
  fetch('/api/notices').then(async (answer) => {
    if (!answer.ok) return console.error(`notice board: the harbour answered ${answer.status}, nothing is shown`);
    const { text } = await answer.json();
    setTimeout(() => (one('.board').textContent = text));
  });
}

// Sailing page: fare, seats, hold, notice.
if (sailing) {
  let chosen = null;
  let renders = 1;
  const panel = one('#seat-panel');
  panel.addEventListener('click', async (event) => {
    const seat = event.target.closest('.seat');
    if (seat) {
      chosen = seat.dataset.seat;
      for (const other of panel.querySelectorAll('.seat')) other.setAttribute('aria-pressed', String(other === seat));
    }
    if (event.target.closest('#hold')) {
      const extras = [...panel.querySelectorAll('input:checked')].map((box) => box.name);
      const body = JSON.stringify({ sailing, seat: chosen ?? '2A', name: one('#passenger').value, extras });
      const answer = await json('/api/holds', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body,
      });
      const held = one('#held');
      held.innerHTML = '';
      held.append(`Seat ${answer.seat} held for ${answer.name}. `);
      const link = held.appendChild(document.createElement('a'));
      link.href = `/checkout/${answer.id}`;
      link.textContent = 'Go to checkout';
      held.hidden = false;
    }
  });
  const fareArrived = (fare, markup) => {
    one('.fare').textContent = fare;
    if (anew) {
      renders += 1;
      panel.innerHTML = markup;
      one('#hold').dataset.render = String(renders);
      console.info(`seat panel rendered, ${(performance.timeOrigin + performance.now()).toFixed(1)}`);
    }
    panel.dataset.settled = 'yes';
  };
  json(`/api/fare/${sailing}`).then(({ fare, markup }) => fareArrived(fare, markup));
  json(weather)
    .then(({ text }) => {
      const notice = one('#notice');
      notice.textContent = text;
      requestAnimationFrame(() => notice.classList.add('shown'));
      setTimeout(() => notice.classList.remove('shown'), 4000);
    })
    .catch(() => console.warn('no weather'));
}

// Checkout.
if (hold) {
  one('#pay').addEventListener('submit', async (event) => {
    event.preventDefault();
    const { reference } = await json(`/api/holds/${hold}/pay`, { method: 'POST' });
    const paid = one('#paid');
    paid.textContent = `Paid. Reference ${reference}. `;
    const link = paid.appendChild(document.createElement('a'));
    link.href = `/pass/${hold}`;
    link.target = '_blank';
    link.textContent = 'Boarding pass';
    paid.hidden = false;
  });
}
