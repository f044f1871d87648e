import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { EditPreview } from '@rootmap/core/contract';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';

const SHOWN = 60;

interface Props {
  readonly preview: EditPreview;
}

/** Everything that an edit changes, before it does: files, references, folders, and what is left alone. */
export const EditPreviewList = ({ preview }: Props) => (
  <Box sx={{ display: 'grid', gap: 1.5 }}>
    <Matters preview={preview} />
    <Follows preview={preview} />
    <LeftAlone preview={preview} />
    <Sizes preview={preview} />
  </Box>
);

/** What a person may not want: layers that lose their data, and what stays though it was asked for. */
const Matters = ({ preview }: Props) => (
  <>
    {preview.usedBy.length > 0 && (
      <Part title={`${many(preview.usedBy.length, 'layer')} will be adrift`} tone="plum">
        {preview.usedBy.slice(0, SHOWN).map((u, i) => (
          <Line key={i}>
            {u.title} <Soft>in {u.map}</Soft>
          </Line>
        ))}
      </Part>
    )}
    {preview.loosened.length > 0 && (
      <Part title={`${many(preview.loosened.length, 'layer')} no longer go through a link`} tone="ochre">
        {preview.loosened.slice(0, SHOWN).map((u, i) => (
          <Line key={i}>
            {u.title} <Soft>in {u.map}: still reached by its whole address</Soft>
          </Line>
        ))}
      </Part>
    )}
    {preview.kept.length > 0 && (
      <Part title={`${many(preview.kept.length, 'layer')} stay as they are`} tone="ochre">
        {preview.kept.slice(0, SHOWN).map((k, i) => (
          <Line key={i}>
            {k.title}{' '}
            <Soft>
              in {k.map}: {k.why}.
            </Soft>
          </Line>
        ))}
        <More shown={Math.min(SHOWN, preview.kept.length)} of={preview.kept.length} />
      </Part>
    )}
    {preview.damaged.length > 0 && (
      <Part title="Cannot be read, and is not rewritten" tone="plum">
        {preview.damaged.map((d) => (
          <Line key={d.path}>
            <PathText path={d.path} /> <Soft>{d.message}</Soft>
          </Line>
        ))}
      </Part>
    )}
  </>
);

/** What is moved, made and rewritten. */
const Follows = ({ preview }: Props) => (
  <>
    {preview.files > 0 && preview.moved.length > 0 && (
      <Part title={many(preview.files, 'file')}>
        {preview.moved.slice(0, SHOWN).map((m) => (
          <Line key={m.from}>
            <PathText path={m.from} most={46} colour="var(--soft)" />
            {m.to !== '' && (
              <>
                {' → '}
                <PathText path={m.to} most={46} />
              </>
            )}
          </Line>
        ))}
        <More shown={Math.min(SHOWN, preview.moved.length)} of={preview.files} />
      </Part>
    )}
    {preview.folders.length > 0 && (
      <Part title={`${many(preview.folders.length, 'folder')} made`}>
        <Line>
          <span className="mono">{preview.folders.join(' · ')}</span>
        </Line>
      </Part>
    )}
    {preview.added.length > 0 && (
      <Part title={`${many(preview.added.length, 'layer')} added`} tone="spruce">
        {preview.added.slice(0, SHOWN).map((l, i) => (
          <Line key={i}>
            {l.title} <Soft>in {l.map}: </Soft>
            <PathText path={l.href} most={50} colour="var(--spruce)" />
          </Line>
        ))}
      </Part>
    )}
    {preview.references.length > 0 && (
      <Part title={`${many(preview.referenceCount, 'reference')} in ${many(preview.maps, 'map')} will follow`} tone="spruce">
        {preview.references.slice(0, SHOWN).map((r, i) => (
          <Line key={i}>
            {r.title} <Soft>in {r.map}: </Soft>
            <PathText path={r.before} most={34} colour="var(--soft)" />
            {' → '}
            <PathText path={r.after} most={34} colour="var(--spruce)" />
          </Line>
        ))}
        <More shown={Math.min(SHOWN, preview.references.length)} of={preview.referenceCount} />
      </Part>
    )}
  </>
);

const LeftAlone = ({ preview }: Props) => (
  <>
    <Paths title="Also written: project file and origin records" paths={preview.records} />
    <Paths title="Also mentioned in, not rewritten" paths={preview.mentioned} tone="ochre" />
    {preview.mentionedNames.length > 0 && (
      <Part title="Mentioned in files that cannot be rewritten" tone="ochre">
        {preview.mentionedNames.slice(0, SHOWN).map((m) => (
          <Line key={m.path}>
            <PathText path={m.path} most={50} /> <Soft>in {m.files.slice(0, 4).join(', ')}</Soft>
          </Line>
        ))}
        <More shown={Math.min(SHOWN, preview.mentionedNames.length)} of={preview.mentionedNames.length} />
      </Part>
    )}
    <Paths title="Originals: left as they are" paths={preview.protectedPaths} tone="slate" />
  </>
);

const Sizes = ({ preview }: Props) => (
  <>
    {preview.copiedBytes > 0 && (
      <Typography variant="body2">
        {bytes(preview.copiedBytes)} are copied and compared{preview.isOldTrashed ? ' before the old files go to the trash' : ''}.
      </Typography>
    )}
    {preview.stagedBytes > 0 && (
      <Typography variant="body2">
        {bytes(preview.stagedBytes)} are written anew and checked. The file as it is goes to the trash of the project; undo brings it back.
      </Typography>
    )}
    {preview.trashedBytes > 0 && (
      <Typography variant="body2">{bytes(preview.trashedBytes)} go to the trash of the project. Undo brings them back.</Typography>
    )}
  </>
);

function Part({ title, tone, children }: { title: string; tone?: string; children: ReactNode }) {
  return (
    <Box component="section" aria-label={title}>
      <Typography variant="h3" component="h3" sx={{ mb: 0.25, color: tone ? `var(--${tone})` : undefined }}>
        {title}
      </Typography>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 190, overflow: 'auto' }} tabIndex={0} aria-label={title}>
        {children}
      </Box>
    </Box>
  );
}

function Paths({ title, paths, tone }: { title: string; paths: readonly string[]; tone?: string }) {
  if (paths.length === 0) return null;
  return (
    <Part title={title} {...(tone ? { tone } : {})}>
      {paths.slice(0, SHOWN).map((p) => (
        <Line key={p}>
          <PathText path={p} most={90} />
        </Line>
      ))}
      <More shown={Math.min(SHOWN, paths.length)} of={paths.length} />
    </Part>
  );
}

const Line = ({ children }: { children: ReactNode }) => (
  <Box component="li" sx={{ fontSize: 13, py: '1px' }}>
    {children}
  </Box>
);
const Soft = ({ children }: { children: ReactNode }) => <span style={{ color: 'var(--soft)' }}>{children}</span>;
const More = ({ shown, of }: { shown: number; of: number }) => (of > shown ? <Line>… and {of - shown} more</Line> : null);
