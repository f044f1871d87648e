import { Button, Stack, Typography } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';
import { noteKindOf } from '@rootmap/core';
import { usePlaces } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { DocumentDialog } from '../notes/document-dialog.js';
import { CopyPath } from '../parts/copy-path.js';
import { Fact } from '../parts/fact.js';
import { bytes, dateTime, many } from '../parts/format.js';
import { pathOf } from '../parts/path-menu.js';
import { PathText } from '../parts/path-text.js';
import { withinLink, type Row } from './folder-rows.js';
import { KIND_WORDS } from './words.js';

/** What is known of something in a linked folder. It belongs to others too: here it is read and taken from, not moved. */
export function LinkedDetails({ row, link }: { row: Row; link: string }) {
  const project = useOpenProject();
  const [isReading, setReading] = useState(false);
  const places = usePlaces().data ?? [];
  const folder = project.links.find((l) => l.name === link)?.path ?? null;
  const path = folder === null ? null : [folder, withinLink(row)].filter(Boolean).join('/');
  const of = path === null ? null : pathOf(path, project.root, places);
  const at = of?.at ?? null;
  const isDocument = row.kind === 'thing' && row.thing.kind === 'document' && noteKindOf(row.path) !== null;
  return (
    <>
      <Typography variant="h2" className={row.kind === 'thing' ? 'mono' : undefined} sx={{ overflowWrap: 'anywhere' }}>
        {row.name}
      </Typography>
      {of && <PathText path={of.shown} most={40} />}
      {row.kind === 'folder' ? (
        row.files > 0 && (
          <Fact name="Holds">
            {many(row.files, 'file')}, {bytes(row.bytes)}
          </Fact>
        )
      ) : (
        <>
          <Fact name="Is">
            {KIND_WORDS[row.thing.kind]}
            {row.thing.kind === 'dataset' ? `, ${row.thing.format}` : ''}
          </Fact>
          <Fact name="Size">
            {bytes(row.bytes)}, changed {dateTime(row.thing.modifiedMs)}
          </Fact>
          {row.thing.kind === 'dataset' && (
            <Fact name="Used by">{row.thing.usedBy === 0 ? 'no layer of any project here' : many(row.thing.usedBy, 'layer')}</Fact>
          )}
        </>
      )}
      <Typography variant="body2" color="text.secondary">
        Linked as {link}: other projects may use it too, so it is only looked at here.
      </Typography>
      <Stack direction="row" spacing={1} sx={{ flexWrap: 'wrap' }} useFlexGap>
        {isDocument && at && (
          <Button variant="contained" onClick={() => setReading(true)}>
            Read it
          </Button>
        )}
        {row.kind === 'thing' && row.thing.kind === 'archive' && at && (
          <Button
            variant="contained"
            component={Link}
            to={`/p/${project.key}/sources?view=intake&archive=${encodeURIComponent(`${at.place}:${at.path}`)}`}
          >
            Look into it
          </Button>
        )}
        {of && <CopyPath {...of} />}
        <Button component={Link} to={`/p/${project.key}/sources?view=links`}>
          See the link
        </Button>
      </Stack>
      {isReading && at && <DocumentDialog projectKey={project.key} at={at} name={row.name} onClose={() => setReading(false)} />}
    </>
  );
}
