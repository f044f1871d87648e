import { Button, Stack, Typography } from '@mui/material';
import { Link } from 'react-router';
import { usePlaces } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { CopyPath } from '../parts/copy-path.js';
import { Fact } from '../parts/fact.js';
import { bytes, dateTime, many } from '../parts/format.js';
import { pathOf } from '../parts/path-menu.js';
import { PathText } from '../parts/path-text.js';
import { withinLink, type Row } from './folder-rows.js';
import { OpenThing } from './open-thing.js';
import { KIND_WORDS } from './words.js';

/** What is known of something in a linked folder. It belongs to others too: here it is read and taken from, not moved. */
export function LinkedDetails({ row, link }: { row: Row; link: string }) {
  const project = useOpenProject();
  const places = usePlaces().data ?? [];
  const folder = project.links.find((l) => l.name === link)?.path ?? null;
  const path = folder === null ? null : [folder, withinLink(row)].filter(Boolean).join('/');
  const of = path === null ? null : pathOf(path, project.root, places);
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
        {row.kind === 'thing' && of && <OpenThing projectKey={project.key} thing={row.thing} name={row.name} at={of.at} />}
        {of && <CopyPath {...of} />}
        <Button component={Link} to={`/p/${project.key}/sources?view=links`}>
          See the link
        </Button>
      </Stack>
    </>
  );
}
