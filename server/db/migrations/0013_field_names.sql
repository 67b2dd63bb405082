ALTER TABLE `lectures` RENAME COLUMN `making` TO `exportSettings`;--> statement-breakpoint
ALTER TABLE `slides` RENAME COLUMN `findings` TO `warnings`;--> statement-breakpoint
ALTER TABLE `slides` ADD `isPlaced` integer DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE `steps` ADD `isPlaced` integer DEFAULT true NOT NULL;--> statement-breakpoint
UPDATE `steps` SET `isPlaced` = 0 WHERE `deletedAt` IS NOT NULL;--> statement-breakpoint
ALTER TABLE `steps` DROP COLUMN `deletedAt`;--> statement-breakpoint
ALTER TABLE `takes` RENAME COLUMN `gaps` TO `dropoutCount`;--> statement-breakpoint
ALTER TABLE `takes` RENAME COLUMN `gapMs` TO `dropoutMs`;--> statement-breakpoint
ALTER TABLE `takes` RENAME COLUMN `through` TO `isContinuous`;--> statement-breakpoint
ALTER TABLE `takes` RENAME COLUMN `sittingId` TO `sourceRecordingId`;--> statement-breakpoint
DROP INDEX `takes_by_slide`;--> statement-breakpoint
UPDATE `takes` SET `number` = 0, `deletedAt` = NULL WHERE `isContinuous` = 1;--> statement-breakpoint
CREATE UNIQUE INDEX `takes_by_slide` ON `takes` (`slideId`,`number`) WHERE "takes"."isContinuous" = 0;--> statement-breakpoint
UPDATE `takes` SET
  `analysis` = replace(replace(`analysis`, '"roomDb":', '"noiseFloorDb":'), '"falseStop":', '"trailingUtterance":'),
  `alignment` = replace(replace(`alignment`, '"doubtful":', '"needsReview":'), '"extra":', '"offScript":');--> statement-breakpoint
UPDATE `clips` SET `figures` = replace(replace(`figures`, '"roomDb":', '"noiseFloorDb":'), '"limitedDb":', '"gainReductionDb":');--> statement-breakpoint
ALTER TABLE `tidyUps` RENAME COLUMN `recipe` TO `tidyUp`;--> statement-breakpoint
ALTER TABLE `cues` RENAME COLUMN `doubtful` TO `needsReview`;--> statement-breakpoint
ALTER TABLE `cues` RENAME COLUMN `source` TO `scriptText`;--> statement-breakpoint
ALTER TABLE `cues` RENAME COLUMN `hand` TO `manualEdit`;--> statement-breakpoint
ALTER TABLE `parts` RENAME TO `segments`;--> statement-breakpoint
UPDATE `jobs` SET `kind` = CASE `kind`
  WHEN 'sound' THEN 'import-sound'
  WHEN 'divide' THEN 'split-recording'
  WHEN 'sitting' THEN 'split-session'
  WHEN 'again' THEN 'patch-sentence'
  WHEN 'prepare' THEN 'pre-encode'
  ELSE `kind` END;
