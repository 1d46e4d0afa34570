import type { ReportCase } from '../../../core/formats/report.ts';

/** Cases written in one transaction: few enough that nobody else waits long for the database. */
const batch = 1000;

/** Collects the cases of one report and hands them on in parts. */
export class ReportWriter {
  count = 0;
  private cases: ReportCase[] = [];

  constructor(private readonly commit: (cases: readonly ReportCase[]) => void) {}

  take(one: ReportCase): void {
    this.count++;
    this.cases.push(one);
    if (this.cases.length >= batch) this.flush();
  }

  flush(): void {
    if (this.cases.length) this.commit(this.cases.splice(0));
  }
}
