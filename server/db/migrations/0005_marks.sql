ALTER TABLE `recordings` ADD `marks` text;--> statement-breakpoint
ALTER TABLE `recordings` ADD `firstSlideId` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `marks` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `through` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `sittingId` text;