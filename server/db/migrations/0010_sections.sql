ALTER TABLE `slides` ADD `section` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `steps` ADD `offered` integer DEFAULT false NOT NULL;