import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { Bar } from 'react-chartjs-2';
import { Box, MenuItem, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { isKeyName, type FieldProfile } from '@rootmap/core';
import { number } from '../parts/format.js';
import { useToken } from '../theme/use-token.js';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

const plain = (n: number): string => (Number.isInteger(n) ? number(n) : String(Number(n.toPrecision(4))));
const share = ({ filled, of }: FieldProfile): number => (of === 0 ? 0 : (100 * filled) / of);
const percent = (p: number): string => `${p > 0 && p < 1 ? '< 1' : p < 100 && p > 99 ? '> 99' : Math.round(p)} %`;
const MOST_FIELDS = 40;

/** How full each field or band is, and how its numbers are spread. The same stands as text for whoever cannot see it. */
export function FieldCharts({ fields }: { fields: readonly FieldProfile[] }) {
  const [bar, text, rule] = [useToken('--spruce'), useToken('--ink'), useToken('--rule')];
  const font = { family: 'Commissioner Variable', size: 11 };
  const numeric = fields.filter((f) => f.histogram !== null);
  const [chosen, setChosen] = useState<string | null>(null);
  const shown = numeric.find((f) => f.name === chosen) ?? numeric.find((f) => !isKeyName(f.name)) ?? numeric[0];
  const some = [...fields].sort((a, b) => share(a) - share(b)).slice(0, MOST_FIELDS);
  const axis = { ticks: { color: text, font }, grid: { color: rule } };
  return (
    <Box component="section" aria-label="What stands in it" sx={{ mt: 1.5 }}>
      <Typography variant="h3">What stands in it</Typography>
      <Box aria-hidden sx={{ height: some.length * 20 + 34 }}>
        <Bar
          data={{ labels: some.map((f) => f.name), datasets: [{ data: some.map(share), backgroundColor: bar, barThickness: 10 }] }}
          options={{
            indexAxis: 'y',
            maintainAspectRatio: false,
            animation: false,
            plugins: { tooltip: { callbacks: { label: (item) => `${percent(Number(item.raw))} filled` } } },
            scales: {
              x: { ...axis, min: 0, max: 100, ticks: { ...axis.ticks, maxTicksLimit: 5, callback: (v) => `${v} %` } },
              y: { ...axis, grid: { display: false }, ticks: { ...axis.ticks, autoSkip: false } },
            },
          }}
        />
      </Box>
      <Box component="ul" aria-label="How full each is" sx={HIDDEN}>
        {some.map((f) => (
          <li key={f.name}>
            {f.name}: {percent(share(f))} filled
          </li>
        ))}
      </Box>
      {fields.length > some.length && (
        <Typography variant="body2" color="text.secondary">
          The {some.length} least filled of {number(fields.length)}.
        </Typography>
      )}
      {shown?.histogram && (
        <>
          <TextField
            select
            label="Numbers of"
            value={shown.name}
            onChange={(e) => setChosen(e.target.value)}
            sx={{ mt: 1.5, minWidth: 180 }}
          >
            {numeric.map((f) => (
              <MenuItem key={f.name} value={f.name}>
                {f.name}
              </MenuItem>
            ))}
          </TextField>
          <Spread name={shown.name} histogram={shown.histogram} bar={bar} axis={axis} />
        </>
      )}
    </Box>
  );
}

const HIDDEN = { position: 'absolute', width: '1px', height: '1px', overflow: 'hidden', clipPath: 'inset(50%)' } as const;

function Spread({
  name,
  histogram,
  bar,
  axis,
}: {
  name: string;
  histogram: NonNullable<FieldProfile['histogram']>;
  bar: string;
  axis: object;
}) {
  const { from, to, counts, stride } = histogram;
  const step = (to - from) / counts.length;
  const labels = counts.map((_, i) => plain(from + i * step));
  const most = counts.indexOf(Math.max(...counts));
  const words = `${name}: ${plain(from)} to ${plain(to)} in ${counts.length} steps; most numbers from ${plain(from + most * step)} to ${plain(from + (most + 1) * step)}.`;
  return (
    <>
      <Box aria-hidden sx={{ height: 130, mt: 1 }}>
        <Bar
          data={{ labels, datasets: [{ data: [...counts], backgroundColor: bar, categoryPercentage: 1, barPercentage: 0.95 }] }}
          options={{
            maintainAspectRatio: false,
            animation: false,
            plugins: {
              tooltip: {
                callbacks: {
                  title: ([item]) => (item ? `${labels[item.dataIndex]} to ${plain(from + (item.dataIndex + 1) * step)}` : ''),
                  label: (item) => number(Number(item.raw)),
                },
              },
            },
            scales: { x: { ...axis, grid: { display: false } }, y: { ...axis, beginAtZero: true } },
          }}
        />
      </Box>
      <Typography variant="body2" color="text.secondary">
        {words}
        {stride > 1 ? ` Of every ${number(stride)}th.` : ''}
      </Typography>
    </>
  );
}
