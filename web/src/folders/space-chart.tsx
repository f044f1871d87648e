import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { Bar } from 'react-chartjs-2';
import { Box } from '@mui/material';
import { bytes } from '../parts/format.js';
import { useToken } from '../theme/use-token.js';
import type { Sum } from './space-sums.js';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

/** Bars, the largest first. The same numbers stand beside it as a table for whoever cannot see it. */
export function SpaceChart({ sums, label }: { sums: readonly Sum[]; label: string }) {
  const [bar, text, rule] = [useToken('--spruce'), useToken('--ink'), useToken('--rule')];
  const font = { family: 'Commissioner Variable', size: 12 };
  return (
    <>
      <Box aria-hidden sx={{ height: Math.max(90, sums.length * 26 + 34) }}>
        <Bar
          data={{ labels: sums.map((s) => s.name), datasets: [{ data: sums.map((s) => s.bytes), backgroundColor: bar, barThickness: 14 }] }}
          options={{
            indexAxis: 'y',
            maintainAspectRatio: false,
            animation: false,
            plugins: { tooltip: { callbacks: { label: (item) => bytes(Number(item.raw)) } } },
            scales: {
              x: { grid: { color: rule }, ticks: { color: text, font, maxTicksLimit: 5, callback: (v) => bytes(Number(v)) } },
              y: { grid: { display: false }, ticks: { color: text, font, autoSkip: false } },
            },
          }}
        />
      </Box>
      <Box
        component="table"
        aria-label={label}
        sx={{ position: 'absolute', width: '1px', height: '1px', overflow: 'hidden', clipPath: 'inset(50%)' }}
      >
        <tbody>
          {sums.map((s) => (
            <tr key={s.name}>
              <th scope="row">{s.name}</th>
              <td>{bytes(s.bytes)}</td>
            </tr>
          ))}
        </tbody>
      </Box>
    </>
  );
}
