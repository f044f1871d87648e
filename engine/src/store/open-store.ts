import { mkdirSync } from 'node:fs';
import 'reflect-metadata';
import { ProblemError } from '@rootmap/core';
import { DataSource } from 'typeorm';
import { setOwnersFolder } from '../changes/owner-lock.js';
import { join } from '../disk/native-path.js';
import { isOnServer } from '../disk/network.js';
import { initialize, SAYS_NOTHING } from './initialize.js';
import {
  acceptedMoveTable,
  AddFormerFolders1765100000000,
  AddSent1765200000000,
  missedMoveTable,
  originalsTable,
  placeTable,
  planTable,
  rejectionTable,
  seenFolderTable,
  sentTable,
  editionTable,
  serviceTable,
  allowedHostTable,
  AddServices1765400000000,
  AllowHostsByPlace1765600000000,
  SplitSettings1764600000000,
} from './remembered.js';
import { AddReviewTemplates1765700000000, reviewTemplateTable } from './review-templates.js';
import { AddShelves1765800000000, shelfTable } from './shelves.js';
import {
  AddChangeRoots1764300000000,
  AddDrafts1764200000000,
  AddStepMoves1764900000001,
  AddStepSource1764000000002,
  changeTable,
  CreateJournal1764000000000,
  draftTable,
  lockTable,
  projectTable,
  stepTable,
} from './tables.js';

/** Opens the journal, which holds what cannot be rebuilt: changes, settings, the registry of projects. */
export async function openStore(folder: string): Promise<DataSource> {
  mkdirSync(folder, { recursive: true });
  // Write-ahead logging needs shared memory, which servers lack.
  if (isOnServer(folder))
    throw new ProblemError({
      code: 'wrong-use',
      message: `${folder} is on a network drive, where the journal cannot be kept safely. Set ROOTMAP_DATA to a folder on a drive of this machine.`,
    });
  setOwnersFolder(folder);
  return initialize(
    () =>
      new DataSource({
        type: 'better-sqlite3',
        logger: SAYS_NOTHING,
        database: join(folder, 'journal.sqlite'),
        enableWAL: true,
        timeout: 10_000,
        prepareDatabase: (db: unknown) => {
          const connection = db as { pragma(text: string): void };
          connection.pragma('synchronous = FULL');
          connection.pragma('foreign_keys = ON');
        },
        entities: [
          changeTable,
          stepTable,
          lockTable,
          projectTable,
          draftTable,
          planTable,
          reviewTemplateTable,
          placeTable,
          rejectionTable,
          acceptedMoveTable,
          missedMoveTable,
          originalsTable,
          seenFolderTable,
          sentTable,
          editionTable,
          serviceTable,
          allowedHostTable,
          shelfTable,
        ],
        migrations: [
          CreateJournal1764000000000,
          AddStepSource1764000000002,
          AddDrafts1764200000000,
          AddChangeRoots1764300000000,
          SplitSettings1764600000000,
          AddStepMoves1764900000001,
          AddFormerFolders1765100000000,
          AddSent1765200000000,
          AddServices1765400000000,
          AllowHostsByPlace1765600000000,
          AddReviewTemplates1765700000000,
          AddShelves1765800000000,
        ],
        migrationsRun: true,
        synchronize: false,
      }),
  );
}
