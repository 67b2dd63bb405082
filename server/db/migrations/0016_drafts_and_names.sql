ALTER TABLE `slides` ADD `isAltTextDraft` integer DEFAULT false NOT NULL;--> statement-breakpoint
UPDATE `links` SET `name` = '' WHERE `name` = 'First link';--> statement-breakpoint
ALTER TABLE `links` ADD `embedIn` text;