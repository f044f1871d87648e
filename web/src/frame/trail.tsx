import { Box } from '@mui/material';
import { NavLink, useParams } from 'react-router';
import type { ProjectView } from '@rootmap/core/contract';

interface Stop {
  readonly name: string;
  readonly path: string;
  /** What waits there. */
  readonly count?: (p: ProjectView) => number;
  readonly tone?: 'plum' | 'ochre';
  readonly what?: string;
}

const broken = (p: ProjectView): number => p.totals.adrift + p.totals.different + p.totals.incomplete + p.totals.unreadable;

/** The job in the order people do it. */
const STOPS: readonly Stop[] = [
  { name: 'Overview', path: 'overview' },
  { name: 'Folders', path: 'folders' },
  { name: 'Sources', path: 'sources' },
  { name: 'Geodatabases', path: 'geodatabases' },
  { name: 'Maps', path: 'maps', count: (p) => p.damaged.length, tone: 'plum', what: 'damaged maps' },
  { name: 'Mend', path: 'mend', count: broken, tone: 'plum', what: 'layers to mend' },
  { name: 'Quality', path: 'quality' },
  { name: 'Send', path: 'send' },
];

export function Trail({ project }: { project: ProjectView | null }) {
  const { key } = useParams();
  return (
    <Box
      component="nav"
      aria-label="Stops of the project"
      sx={{ bgcolor: 'var(--sheet)', borderBottom: '1px solid var(--rule)', flex: 'none', overflowX: 'auto' }}
    >
      <Box
        component="ol"
        sx={{
          listStyle: 'none',
          m: 0,
          p: 0,
          px: { xs: 0, md: 2 },
          display: 'grid',
          gridTemplateColumns: { xs: 'repeat(4, 1fr)', md: `repeat(${STOPS.length}, 1fr)` },
          gridAutoRows: 52,
          position: 'relative',
        }}
      >
        {STOPS.map((stop, i) => (
          <Box
            component="li"
            key={stop.name}
            sx={{
              position: 'relative',
              '&::before': {
                content: '""',
                position: 'absolute',
                top: 16,
                left: i === 0 ? '50%' : 0,
                right: i === STOPS.length - 1 ? '50%' : 0,
                height: '2px',
                bgcolor: 'var(--rule)',
              },
            }}
          >
            <OpenStop stop={stop} to={`/p/${key}/${stop.path}`} project={project} />
          </Box>
        ))}
      </Box>
    </Box>
  );
}

const shape = {
  position: 'relative',
  display: 'flex',
  flexDirection: 'column',
  alignItems: 'center',
  pt: '9px',
  gap: '3px',
  height: '100%',
  boxSizing: 'border-box',
  textDecoration: 'none',
  fontSize: { xs: 12, md: 13 },
} as const;
const dot = {
  width: 14,
  height: 14,
  borderRadius: '50%',
  boxSizing: 'border-box',
  border: '2px solid var(--stone)',
  bgcolor: 'var(--sheet)',
} as const;

function OpenStop({ stop, to, project }: { stop: Stop; to: string; project: ProjectView | null }) {
  const count = project && stop.count ? stop.count(project) : 0;
  return (
    <Box
      component={NavLink}
      to={to}
      sx={{
        ...shape,
        color: 'var(--ink)',
        '& .dot': dot,
        '&.active .dot': { bgcolor: 'var(--spruce)', borderColor: 'var(--spruce)' },
        '&.active': { fontWeight: 700 },
        '&:hover': { color: 'var(--spruce)' },
      }}
    >
      <span className="dot" />
      <span>{stop.name}</span>
      {count > 0 && (
        <Box
          component="span"
          aria-label={`${count} ${stop.what}`}
          sx={{
            position: 'absolute',
            top: 6,
            left: 'calc(50% + 12px)',
            px: '6px',
            borderRadius: '8px',
            fontSize: 11,
            fontWeight: 700,
            lineHeight: '17px',
            color: 'var(--on-spruce)',
            bgcolor: `var(--${stop.tone})`,
          }}
        >
          {count}
        </Box>
      )}
    </Box>
  );
}
