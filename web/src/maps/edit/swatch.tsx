import { type LayerSymbol, type Look, markPath, type RasterLook, type ShapeKind } from '@rootmap/core';
import { CHANNELS, GREYS } from './ramps.js';

const W = 26;
const H = 18;

/** A symbol as it will be drawn, for stacks, legends and choices. */
export function SymbolSwatch({
  symbol: s,
  kind,
  width = W,
  height = H,
}: {
  symbol: LayerSymbol;
  kind: ShapeKind;
  width?: number;
  height?: number;
}) {
  const stroke = s.stroke ?? 'none';
  const common = {
    stroke,
    strokeWidth: Math.min(s.strokeWidth, 4),
    strokeOpacity: s.strokeOpacity,
    ...(s.dash ? { strokeDasharray: s.dash.join(' ') } : {}),
  };
  const [cx, cy] = [width / 2, height / 2];
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} aria-hidden style={{ display: 'block', flex: 'none' }}>
      {kind === 'line' ? (
        <path
          d={`M2 ${height - 4} C ${width * 0.35} 2, ${width * 0.6} ${height - 1}, ${width - 2} 4`}
          fill="none"
          {...common}
          stroke={s.stroke ?? s.fill ?? 'currentColor'}
          strokeLinecap="round"
        />
      ) : kind === 'point' ? (
        <path
          d={markPath(s.mark, cx, cy, Math.min(s.size, height - 2) / 2)}
          fill={s.fill ?? 'none'}
          fillOpacity={s.fillOpacity}
          {...common}
          strokeWidth={Math.min(s.strokeWidth, 2)}
          stroke={['cross', 'x'].includes(s.mark) ? (s.stroke ?? s.fill ?? 'none') : stroke}
        />
      ) : (
        <rect
          x={1.5}
          y={1.5}
          width={width - 3}
          height={height - 3}
          rx={2}
          fill={s.fill ?? 'none'}
          fillOpacity={s.fillOpacity}
          {...common}
        />
      )}
    </svg>
  );
}

/** Colours of a ramp, each where its value stands between the ends. */
function placedStops(ramp: NonNullable<RasterLook['ramp']>): string[] {
  const [from, to] = [ramp[0]!.value, ramp.at(-1)!.value];
  return ramp.map((s) => (to > from ? `${s.colour} ${(((s.value - from) / (to - from)) * 100).toFixed(1)}%` : s.colour));
}

/** The look of a layer in little: its symbol, the first tones of its classes, or its ramp. */
export function LookSwatch({ look, kind }: { look: Look; kind: ShapeKind | 'raster' | 'table' | null }) {
  if (look.kind === 'raster') {
    const stops = look.ramp ? placedStops(look.ramp) : look.bands ? CHANNELS : GREYS;
    return (
      <span
        aria-hidden
        style={{
          width: W,
          height: H,
          flex: 'none',
          borderRadius: 3,
          border: '1px solid var(--rule)',
          background: `linear-gradient(90deg, ${stops.join(', ')})`,
        }}
      />
    );
  }
  const shape = kind === 'raster' || kind === 'table' || kind === null ? 'mixed' : kind;
  if (look.kind === 'one') return <SymbolSwatch symbol={look.symbol} kind={shape} />;
  const symbols = look.kind === 'rules' ? look.rules.map((r) => r.symbol) : look.entries.map((e) => e.symbol);
  const tones = symbols.slice(0, 4).map((s) => (shape === 'line' ? s.stroke : s.fill) ?? s.stroke ?? '#888888');
  return (
    <svg width={W} height={H} aria-hidden style={{ display: 'block', flex: 'none' }}>
      {tones.map((tone, i) => (
        <rect key={i} x={(i * W) / tones.length} y={1} width={W / tones.length} height={H - 2} fill={tone} />
      ))}
    </svg>
  );
}
