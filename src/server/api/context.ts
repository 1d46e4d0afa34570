import type { Logger } from 'pino';
import type { Owner } from '../../browser/owner.ts';
import type { Places } from '../../browser/places.ts';
import type { Changes } from '../changes.ts';
import type { AgainJobs } from '../jobs/agains.ts';
import type { AnalysisJobs } from '../jobs/analysis.ts';
import type { Contrasts } from '../jobs/contrasts.ts';
import type { EvidenceDesk } from '../jobs/evidence-desk.ts';
import type { DeliveryJobs } from '../jobs/deliveries.ts';
import type { MendingJobs } from '../jobs/mendings.ts';
import type { IntakeJobs } from '../jobs/intakes.ts';
import type { KeepingJobs } from '../jobs/keeping.ts';
import type { RulingJobs } from '../jobs/ruling.ts';
import type { SeriesJobs } from '../jobs/series.ts';
import type { Streamed } from '../ingest/streamed.ts';
import type { ToldByReporters } from '../ingest/told-by-reporters.ts';
import type { RecordingSink } from '../ingest/recorded.ts';
import type { Spooled } from '../ingest/spooled.ts';
import type { PermitSettings } from '../jobs/drill-permits.ts';
import type { Store } from '../store/store.ts';

/** What the routes of the API work with. */
export interface Services {
  version: string;
  /** Where sessions and trials can be had. */
  places: Places;
  store: Store;
  owner: Owner;
  changes: Changes;
  analysis: AnalysisJobs;
  contrasts: Contrasts;
  desk: EvidenceDesk;
  series: SeriesJobs;
  ruling: RulingJobs;
  keeping: KeepingJobs;
  mendings: MendingJobs;
  agains: AgainJobs;
  intakes: IntakeJobs;
  deliveries: DeliveryJobs;
  streamed: Streamed;
  toldByReporters: ToldByReporters;
  sink: RecordingSink;
  spooled: Spooled;
  settings: PermitSettings;
  log: Logger;
  /** How often something failed that nobody had caught. */
  faults: () => number;
}
