import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { DatasetView } from '@rootmap/core/contract';
import { askForThumbnail } from './thumbnail-queue.js';

/** A small picture of a dataset; an empty frame where it has none, or until it is there. */
export function Thumbnail({ projectKey, dataset, modifiedMs }: { projectKey: string; dataset: DatasetView; modifiedMs: number }) {
  const hasShape = dataset.kind === 'vector' || dataset.kind === 'raster';
  const { data } = useQuery({
    queryKey: ['thumbnail', projectKey, dataset.id, modifiedMs, dataset.bytes],
    queryFn: () => askForThumbnail(projectKey, dataset.id),
    enabled: hasShape,
    staleTime: Infinity,
    retry: false,
  });
  return (
    <Box
      component="svg"
      viewBox="0 0 192 120"
      aria-hidden
      data-thumbnail={data ? data.kind : 'none'}
      sx={{ width: 44, height: 28, display: 'block', bgcolor: hasShape ? 'var(--slate-wash)' : 'transparent', borderRadius: '3px' }}
    >
      {data?.image && <image href={`data:image/png;base64,${data.image}`} width={192} height={120} preserveAspectRatio="xMidYMid meet" />}
      {data && data.path !== '' && (
        <path
          d={data.path}
          fill={data.kind === 'area' ? 'var(--spruce)' : 'none'}
          fillOpacity={0.28}
          fillRule="evenodd"
          stroke="var(--spruce)"
          strokeWidth={data.kind === 'point' ? 7 : 3}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      )}
    </Box>
  );
}
