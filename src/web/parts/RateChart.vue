<script setup lang="ts">
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
  type Plugin,
} from 'chart.js';
import { onBeforeUnmount, onMounted, ref, watch } from 'vue';
import type { Point } from '../../core/history/points.ts';
import { percent, plural } from '../words.ts';

/** Rates over days or commits as dots with their 95 % intervals; where the rate became another one is marked. The same as a table. */
const props = defineProps<{ points: Point[]; label: string; csv: string; marks?: readonly Mark[] }>();
/** A change, with the rate before it and since. */
type Mark = { at: number; before: { point: number }; after: { point: number } };
Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
);

const canvas = ref<HTMLCanvasElement>();
const asTable = ref(false);
let chart: Chart | undefined;
const colour = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Upright lines from the low to the high end of each interval, and a line where a change was found. */
const intervals: Plugin = {
  id: 'intervals',
  beforeDatasetsDraw: ({ ctx, scales, chartArea }) => {
    const { x, y } = scales as { x: CategoryScale; y: LinearScale };
    ctx.save();
    ctx.lineWidth = 2;
    props.points.forEach((point, i) => {
      for (const [rate, of] of [
        [point.failure, '--brick'],
        [point.flake, '--amber'],
      ] as const) {
        if (rate.point === 0) continue;
        ctx.strokeStyle = colour(of);
        ctx.globalAlpha = 0.45;
        ctx.beginPath();
        ctx.moveTo(x.getPixelForValue(i), y.getPixelForValue(rate.low));
        ctx.lineTo(x.getPixelForValue(i), y.getPixelForValue(rate.high));
        ctx.stroke();
      }
    });
    ctx.globalAlpha = 1;
    ctx.strokeStyle = colour('--ink');
    ctx.lineWidth = 1.5;
    const marks = (props.marks ?? []).map((mark) => {
      const i = Math.max(
        0,
        props.points.findLastIndex((point) => point.at <= mark.at),
      );
      return { ...mark, left: x.getPixelForValue(i) };
    });
    const level = (from: number, until: number, rate: number): void => {
      ctx.beginPath();
      ctx.moveTo(from, y.getPixelForValue(rate));
      ctx.lineTo(until, y.getPixelForValue(rate));
      ctx.stroke();
    };
    marks.forEach(({ left, before, after }, i) => {
      ctx.setLineDash([4, 3]);
      ctx.beginPath();
      ctx.moveTo(left, chartArea.top);
      ctx.lineTo(left, chartArea.bottom);
      ctx.stroke();
      ctx.setLineDash([]);
      level(marks[i - 1]?.left ?? chartArea.left, left, before.point);
      if (i === marks.length - 1) level(left, chartArea.right, after.point);
    });
    ctx.restore();
  },
};

/** The ends of the intervals that are drawn. */
const highs = (): number[] =>
  props.points.flatMap(({ failure, flake }) =>
    [failure, flake].map(({ point, high }) => (point === 0 ? 0 : high * 1.05)),
  );

function draw(): void {
  chart?.destroy();
  if (!canvas.value) return;
  const dots = (name: string, of: 'failure' | 'flake', style: 'rect' | 'rectRot', tint: string) => ({
    type: 'line' as const,
    label: name,
    data: props.points.map((point) => point[of].point),
    showLine: false,
    clip: false as const,
    pointStyle: style,
    pointRadius: props.points.map((point) => (point[of].point === 0 ? 1.5 : 4)),
    backgroundColor: colour(tint),
    borderColor: colour(tint),
  });
  Chart.defaults.font.family = colour('--sans');
  chart = new Chart(canvas.value, {
    type: 'line',
    data: {
      labels: props.points.map(({ label }) => (/^\d{4}-\d\d-\d\d$/.test(label) ? label.slice(5) : label.slice(0, 10))),
      datasets: [dots('failed', 'failure', 'rect', '--brick'), dots('flaky', 'flake', 'rectRot', '--amber')],
    },
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      scales: {
        // Few of them stand amid the chart, not at its edges.
        x: {
          offset: props.points.length < 8,
          ticks: { color: colour('--soft'), maxRotation: 0, autoSkipPadding: 14 },
          grid: { display: false },
        },
        y: {
          min: 0,
          // Up to a whole tenth, so that the topmost line is one of those that are named.
          max: Math.ceil(10 * Math.min(1, Math.max(0.1, ...highs()))) / 10,
          ticks: { color: colour('--soft'), callback: (value) => percent(Number(value)) },
          grid: { color: colour('--line') },
        },
      },
      plugins: {
        tooltip: {
          callbacks: {
            label: ({ dataIndex, datasetIndex }) => {
              const point = props.points[dataIndex]!;
              const [count, rate, name] =
                datasetIndex === 0
                  ? [point.failed, point.failure, 'failed']
                  : [point.flaky, point.flake, 'passed on retry'];
              return `${count} of ${point.ran} ${name}: ${percent(rate.low)} to ${percent(rate.high)}`;
            },
          },
        },
      },
    },
    plugins: [intervals],
  });
}
onMounted(() => {
  draw();
  // What is drawn knows no font before that is there.
  void document.fonts.ready.then(draw);
});
watch([() => props.points, () => props.marks, asTable], draw, { flush: 'post' });
const dark = matchMedia('(prefers-color-scheme: dark)');
dark.addEventListener('change', draw);
onBeforeUnmount(() => {
  dark.removeEventListener('change', draw);
  chart?.destroy();
});
</script>

<template>
  <figure>
    <figcaption>
      <span class="key"><i class="square" /> failed</span>
      <span class="key"><i class="diamond" /> passed only on retry</span>
      <span class="soft">with 95 % intervals</span>
      <span class="acts">
        <button type="button" class="plain sea" :aria-pressed="asTable" @click="asTable = !asTable">
          {{ asTable ? 'as chart' : 'as table' }}
        </button>
        <a :href="csv">CSV</a>
      </span>
    </figcaption>
    <div v-if="asTable" class="table" tabindex="0" role="region" :aria-label="label">
      <table>
        <thead>
          <tr>
            <th scope="col"></th>
            <th scope="col">ran</th>
            <th scope="col">failed</th>
            <th scope="col">interval</th>
            <th scope="col">on retry</th>
            <th scope="col">interval</th>
            <th scope="col">retries</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="point in points" :key="point.label">
            <th scope="row" class="mono">{{ point.label.slice(0, 12) }}</th>
            <td>{{ point.ran }}</td>
            <td>{{ point.failed }}</td>
            <td class="soft">{{ percent(point.failure.low) }} to {{ percent(point.failure.high) }}</td>
            <td>{{ point.flaky }}</td>
            <td class="soft">{{ percent(point.flake.low) }} to {{ percent(point.flake.high) }}</td>
            <td>{{ (point.retryMs / 60_000).toFixed(1) }} min</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-else class="chart">
      <canvas
        ref="canvas"
        role="img"
        :aria-label="`${label}: ${plural(points.length, 'point')}, ${points.reduce((sum, { failed }) => sum + failed, 0)} failed and ${points.reduce((sum, { flaky }) => sum + flaky, 0)} passed only on retry of ${points.reduce((sum, { ran }) => sum + ran, 0)}`"
      />
    </div>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
figcaption {
  display: flex;
  gap: 16px;
  font-size: 12px;
  align-items: baseline;
}
.acts {
  margin-left: auto;
  display: flex;
  gap: 14px;
}
.key i {
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 3px;
}
.square {
  background: var(--brick);
}
.diamond {
  background: var(--amber);
  transform: rotate(45deg);
}
.chart,
.table {
  height: 210px;
}
.table {
  overflow: auto;
}
table {
  border-collapse: collapse;
  font-size: 12px;
  width: 100%;
}
th {
  font-weight: 400;
  text-align: left;
}
td,
th {
  padding: 2px 14px 2px 0;
  border-bottom: 1px solid var(--line);
}
</style>
