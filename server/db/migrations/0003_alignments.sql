ALTER TABLE `cues` ADD `doubtful` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `alignment` text;