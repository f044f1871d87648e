// Reads a folder as a user who may not open all of it. Everything is loaded before the rights are given up.
import { findScope, layerRow, openPlace, wholeDisks, readMaps, surveyFolder } from '@rootmap/engine';

const [root] = process.argv.slice(2);
surveyFolder(root);
const NOBODY = 65534;
if (process.getuid() === 0) {
  process.setgroups([]);
  process.setgid(NOBODY);
  process.setuid(NOBODY);
}
const survey = surveyFolder(root);
const seen = readMaps(findScope(root, { places: wholeDisks([]).map(openPlace) }));
process.stdout.write(
  JSON.stringify({
    datasets: survey.datasets.map((d) => [d.id, d.state, d.findings[0]?.message ?? null]),
    skipped: survey.listing.skipped,
    layers: seen.maps.flatMap((m) => m.layers.map((l) => layerRow(m, l))),
  }),
);
