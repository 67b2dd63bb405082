CREATE TABLE `watching` (
	`editionId` text PRIMARY KEY NOT NULL,
	`totals` text NOT NULL,
	FOREIGN KEY (`editionId`) REFERENCES `editions`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `lectures` ADD `countsWatching` integer DEFAULT true NOT NULL;