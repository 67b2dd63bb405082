CREATE TABLE `translations` (
	`trackId` text NOT NULL,
	`cueId` text NOT NULL,
	`text` text NOT NULL,
	`original` text NOT NULL,
	FOREIGN KEY (`trackId`) REFERENCES `captionTracks`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `translations_by_cue` ON `translations` (`trackId`,`cueId`);--> statement-breakpoint
ALTER TABLE `captionTracks` ADD `kind` text DEFAULT 'captions' NOT NULL;--> statement-breakpoint
ALTER TABLE `cues` ADD `source` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `cues` ADD `hand` text;--> statement-breakpoint
ALTER TABLE `cues` ADD `markup` text;--> statement-breakpoint
ALTER TABLE `lectures` ADD `lineCharacters` integer DEFAULT 37 NOT NULL;