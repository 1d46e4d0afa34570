import { SaxesParser, type SaxesTagPlain } from 'saxes';
import type { Trouble } from './report.ts';

/** Who is told of a report's elements and texts as they come. */
export interface ReportListener {
  opened(tag: SaxesTagPlain): void;
  closed(name: string): void;
  took(text: string): void;
}

const longestPiece = 64 * 1024 * 1024;
const mostProblems = 20;

/** The XML of a report, read as a stream. No entity is expanded but the five of XML; what is broken is told with its line. */
export class ReportXml {
  readonly problems: Trouble[] = [];
  private readonly parser = new SaxesParser({ xmlns: false, position: true });
  private sinceTag = 0;

  constructor(listener: ReportListener) {
    const { parser } = this;
    parser.on('opentag', (tag) => listener.opened(tag));
    parser.on('closetag', (tag) => listener.closed(tag.name));
    parser.on('text', (text) => listener.took(text));
    parser.on('cdata', (text) => listener.took(text));
    parser.on('error', (error) => this.trouble(error.message.replace(/^\d+:\d+: /, '')));
  }

  get line(): number {
    return this.parser.line;
  }

  /** @throws Error when one piece of text between two tags is longer than any report has use for */
  write(text: string): void {
    const last = text.lastIndexOf('<');
    this.sinceTag = last < 0 ? this.sinceTag + text.length : text.length - last;
    if (this.sinceTag > longestPiece) throw new Error('a text in it is longer than 64 MiB; it was read up to there');
    this.parser.write(text);
  }

  close(): void {
    this.parser.close();
  }

  /** What is wrong at the line that is being read; a broken report has very many of them. */
  trouble(message: string): void {
    if (this.problems.length < mostProblems) this.problems.push({ line: this.line, message });
  }
}
