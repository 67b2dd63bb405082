ALTER TABLE `takes` ADD `chunks` integer;--> statement-breakpoint
ALTER TABLE `links` DROP COLUMN `failures`;--> statement-breakpoint
ALTER TABLE `links` DROP COLUMN `lockedUntil`;