// Mends a project and kills itself, for real, before a given step. Started by killed.test.ts; runs what is built.
import { ChangeDisk, choicesOf, explainBroken, findScope, openPlace, wholeDisks, planMend, runChange } from '@rootmap/engine';
import { openStore, SqlJournal } from '@rootmap/engine/store';

const [root, data, step] = process.argv.slice(2);
const store = await openStore(data);
const work = explainBroken(findScope(root, { places: wholeDisks([]).map(openPlace) }));
const change = planMend(work, choicesOf(work, 'certain'), 'test');
const disk = new ChangeDisk((n) => {
  if (n === Number(step)) process.kill(process.pid, 'SIGKILL');
});
await runChange(change, { journal: new SqlJournal(store), disk, program: 'test' });
await store.destroy();
