import { failedAt, writtenAt, writtenBefore, type PageWritten } from '../evidence/documents.ts';
import { lookedAt } from '../evidence/looked-at.ts';
import type { MarkupElement } from '../evidence/markup.ts';
import { acting, type Scene } from './scene.ts';

/** Words in names that pages give to what they say about a form or an act. */
const messageNames =
  /(?:^|[-_ ])(?:alert|err|error|errors|flash|hint|invalid|message|msg|notice|refusal|refused|toast|validation|warn|warning)(?:[-_ ]|$)/i;
const longestMessage = 160;

/** The page that failed to please, as it stood then. */
export function pageAtFailure(scene: Scene): PageWritten | undefined {
  const { failing, markup } = scene;
  return failing && markup && writtenAt(scene, lookedAt(scene, failing), failedAt(scene), markup);
}

export interface PageMessage {
  text: string;
  event: string;
}

/** What the page says about what was last done to it: its messages that had not stood there before. */
export function pageMessages(scene: Scene): PageMessage[] {
  const page = pageAtFailure(scene);
  const { failing, markup } = scene;
  if (!page || !failing || !markup) return [];
  const at = failedAt(scene);
  const act = scene.steps.findLast((step) => acting(step) && step.at < at);
  if (!act) return [];
  const before = writtenBefore(scene, page.context, page.at, act.at, markup);
  const old = new Set(before?.elements.filter(isMessage).map(({ text }) => text));
  const texts = new Set(page.elements.filter(isMessage).flatMap(({ text }) => (old.has(text) ? [] : [text])));
  return [...texts].map((text) => ({ text, event: page.event }));
}

function isMessage({ attrs, text }: MarkupElement): boolean {
  if (text.length < 4 || text.length > longestMessage) return false;
  if ('hidden' in attrs || /display:\s*none/.test(attrs.style ?? '')) return false;
  if (attrs.role === 'alert' || attrs.role === 'status') return true;
  return messageNames.test(attrs.class ?? '') || Object.keys(attrs).some((name) => messageNames.test(name));
}
