ALTER TABLE `steps` ADD `text` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `steps` ADD `afterSeconds` real;