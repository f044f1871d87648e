import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { useEffect, useState } from 'react';
import { Bar } from 'react-chartjs-2';
import { Box } from '@mui/material';
import { bytes } from '../parts/format.js';
import type { Sum } from './space-sums.js';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

/** Colours of the theme as they are now; a chart is a picture and does not follow them by itself. */
function useThemeColours(): { bar: string; text: string; rule: string } {
  const read = () => {
    const style = getComputedStyle(document.documentElement);
    const of = (name: string): string => style.getPropertyValue(name).trim();
    return { bar: of('--spruce'), text: of('--ink'), rule: of('--rule') };
  };
  const [colours, setColours] = useState(read);
  useEffect(() => {
    const observer = new MutationObserver(() => setColours(read()));
    observer.observe(document.documentElement, { attributes: true, attributeFilter: ['data-mode'] });
    return () => observer.disconnect();
  }, []);
  return colours;
}

/** Bars, the largest first. The same numbers stand beside it as a table for whoever cannot see it. */
export function SpaceChart({ sums, label }: { sums: readonly Sum[]; label: string }) {
  const { bar, text, rule } = useThemeColours();
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
