import { Box } from '@mui/material';
import { otherReferences } from '@rootmap/core';
import type { IntakeView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';

/** What arrives in another CRS, unit or datum than the project's, in one line each. */
export function OtherReferencesNote({ groups, reference }: Pick<IntakeView, 'groups' | 'reference'>) {
  const others = reference ? otherReferences(groups, reference) : [];
  if (!reference || others.length === 0) return null;
  return (
    <Box component="section" aria-label="Other coordinates" sx={{ mt: 1, borderLeft: '3px solid var(--ochre)', pl: 1.25, fontSize: 13 }}>
      {others.map(({ crs, paths, differs }) => (
        <div key={crs} title={paths.slice(0, 20).join(', ')}>
          {paths.length === 1 ? paths[0]!.slice(paths[0]!.lastIndexOf('/') + 1) : many(paths.length, 'dataset')} in {crs}, the project is in{' '}
          {reference.crs}
          {differs.length > 0 ? `: ${differs.join('; ')}` : ''}.
        </div>
      ))}
      Maps draw them in their place all the same; copies in the project’s CRS can be made once they are in.
    </Box>
  );
}
