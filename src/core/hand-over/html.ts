import { isoOf } from '../formats/times.ts';
import { partNames, type HandedSuspect, type HandOver } from './hand-over.ts';
import { style } from './style.ts';
import { aboutRows, causeSentence, leftOut, linkAt, moment, partedCounts, percentOf } from './words.ts';

/** Text between tags and in attributes, without what no document may hold. */
const escape = (text: string): string =>
  text
    .replaceAll(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '\ufffd')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;');

/** Markup that is already written. */
class Markup {
  constructor(readonly text: string) {}
}
type Within = Markup | string | number | readonly Within[] | false | undefined;
const inner = (one: Within): string =>
  one === false || one === undefined
    ? ''
    : one instanceof Markup
      ? one.text
      : Array.isArray(one)
        ? one.map(inner).join('')
        : escape(String(one));

/** Markup in which everything put in is text, unless it is markup itself. */
const html = (strings: TemplateStringsArray, ...values: Within[]): Markup =>
  new Markup(strings.reduce((whole, part, i) => whole + inner(values[i - 1]) + part));

/** Addresses that a reader may follow; others are only told. */
const link = (address: string, words: string): Markup =>
  /^https?:\/\//.test(address)
    ? html`<a href="${address}" target="_blank" rel="noopener">${words}</a>`
    : html`${words}`;

const section = (name: string, within: Within): Markup =>
  html`<section>
    <h2>${name}</h2>
    ${within}
  </section>`;

/** A cause with what speaks for and against it, named or in somebody's own words. */
const weighed = (
  name: string,
  standing: string,
  { for: speaking, against }: Pick<HandedSuspect, 'for' | 'against'>,
): Markup =>
  html`<div class="suspect">
    <h3>${name} <span>${standing}</span></h3>
    <ul>
      ${speaking.map((reason) => html`<li class="for"><b>for</b> ${reason}</li>`)}${against.map((reason) => html`<li class="against"><b>against</b> ${reason}</li>`)}
    </ul>
  </div>`;

/**
 * A hand-over as one page: no scripts, nothing fetched, pictures inside, for a screen, for mail and for paper. What comes
 * from outside is text in it, whatever it holds.
 */
export function writeHtml(one: HandOver): string {
  const at = (ms: number, bench = one.link): Markup => link(linkAt(bench, ms), moment(ms));
  const has = (list: readonly unknown[]): boolean => list.length > 0;
  const page = html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta
          http-equiv="content-security-policy"
          content="default-src 'none'; img-src data:; style-src 'unsafe-inline'"
        />
        <meta name="referrer" content="no-referrer" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>${one.sentence}</title>
        <style>
          ${new Markup(style)}
        </style>
      </head>
      <body>
        <header>
          <p class="kind">${one.outcome}</p>
          <h1>${one.sentence}</h1>
          <p class="cause">${causeSentence(one)}</p>
          ${has(one.verdict.cleared) && html`<p class="soft">Cleared: ${one.verdict.cleared.map(({ cause, reason }) => `${cause.toLowerCase()}${reason ? ` (${reason})` : ''}`).join('; ')}.</p>`}
          ${one.verdict.note !== '' && html`<p class="note">${one.verdict.note}</p>`}
        </header>
        <main>
          <section>
            <h2>About</h2>
            <dl>
              ${aboutRows(one).map(
                ([name, value]) =>
                  html`<dt>${name}</dt>
                    <dd>${value}</dd>`,
              )}
              <dt>On the bench</dt>
              <dd>${link(linkAt(one.link, one.failure.at), 'the moment it failed')}</dd>
            </dl>
            ${one.failure.message !== '' && html`<pre tabindex="0" aria-label="Message">${one.failure.message}</pre>`}
          </section>
          ${
            has(one.advice) &&
            section(
              partNames.advice,
              html`<ol>
                ${one.advice.map(({ text, because }) => html`<li><strong>${text}.</strong> <span class="soft">${because}</span></li>`)}
              </ol>`,
            )
          }
          ${
            has(one.suspects) &&
            section(
              partNames.suspects,
              one.suspects.map((suspect) => weighed(suspect.name, percentOf(suspect.probability), suspect)),
            )
          }
          ${
            has(one.own) &&
            section(
              'Causes in own words',
              one.own.map((hypothesis) => weighed(hypothesis.text, hypothesis.state, hypothesis)),
            )
          }
          ${
            has(one.moments) &&
            section(
              'Noted',
              html`<ul>
                ${one.moments.map(({ words, at: when, link: bench }) => html`<li>${when !== undefined && at(when, bench)} ${words}</li>`)}
              </ul>`,
            )
          }
          ${
            has(one.pictures) &&
            section(
              partNames.pictures,
              html`<div class="pictures">
                ${one.pictures.map(
                  ({ at: when, words, data, width, height, link: bench }) =>
                    html`<figure>
                      ${data !== undefined && html`<img src="${data}" width="${width}" height="${height}" alt="${words}, at ${moment(when)}" />`}
                      <figcaption>${at(when, bench)} ${words}</figcaption>
                    </figure>`,
                )}
              </div>`,
            )
          }
          ${
            has(one.steps) &&
            section(partNames.steps, [
              one.stepsBefore > 0 && html`<p class="soft">${leftOut(one.stepsBefore, 'step')}</p>`,
              html`<table>
                <thead>
                  <tr>
                    <th scope="col">At</th>
                    <th scope="col">Step</th>
                    <th scope="col" class="number">Took</th>
                  </tr>
                </thead>
                <tbody>
                  ${one.steps.map((step) => html`<tr${step.failed ? new Markup(' class="failed"') : ''}><td class="number">${at(step.at)}</td><td>${step.failed && html`<b>failed</b> `}${step.label}${step.note !== undefined && html`<br /><span class="soft">${step.note}</span>`}</td><td class="number">${Math.round(step.ms)} ms</td></tr>`)}
                </tbody>
              </table>`,
            ])
          }
          ${
            has(one.parted) &&
            section(
              partNames.parted,
              html`<table>
                <thead>
                  <tr>
                    <th scope="col">Difference</th>
                    <th scope="col">In how many</th>
                  </tr>
                </thead>
                <tbody>
                  ${one.parted.map(
                    (difference) =>
                      html`<tr>
                        <td>${difference.summary}</td>
                        <td class="counts">${partedCounts(difference)}</td>
                      </tr>`,
                  )}
                </tbody>
              </table>`,
            )
          }
          ${
            has(one.requests) &&
            section(
              partNames.requests,
              one.requests.map(
                ({ at: when, ms, method, url, ended, answer }) =>
                  html`<div class="request">
                    <p>
                      ${at(when)} <b>${method}</b> <span class="address">${url}</span>: <b>${ended}</b>,
                      ${Math.round(ms)} ms
                    </p>
                    ${answer !== undefined && html`<pre tabindex="0" aria-label="Answer">${answer}</pre>`}
                  </div>`,
              ),
            )
          }
          ${
            has(one.console) &&
            section(partNames.console, [
              one.consoleBefore > 0 && html`<p class="soft">${leftOut(one.consoleBefore, 'line')}</p>`,
              html`<table class="console">
                <thead>
                  <tr>
                    <th scope="col">At</th>
                    <th scope="col">Level</th>
                    <th scope="col">Text</th>
                  </tr>
                </thead>
                <tbody>
                  ${one.console.map(
                    ({ at: when, level, text }) =>
                      html`<tr class="${level}">
                        <td class="number">${at(when)}</td>
                        <td>${level}</td>
                        <td class="said">${text}</td>
                      </tr>`,
                  )}
                </tbody>
              </table>`,
            ])
          }
          ${
            has(one.circumstances) &&
            section(
              partNames.circumstances,
              html`<dl>
                ${one.circumstances.map(
                  ({ name, value }) =>
                    html`<dt>${name}</dt>
                      <dd>${value}</dd>`,
                )}
              </dl>`,
            )
          }
          ${
            (has(one.trials) || has(one.proofs)) &&
            section(
              partNames.trials,
              html`<ul>
                ${[...one.trials, ...one.proofs].map((words) => html`<li>${words}</li>`)}
              </ul>`,
            )
          }
        </main>
        <footer>Written by Iskel ${one.written.version} on ${isoOf(one.written.at)}.</footer>
      </body>
    </html> `;
  return page.text;
}
