CREATE TABLE `sent_files` (
	`name` text PRIMARY KEY NOT NULL,
	`bytes` integer NOT NULL,
	`store` text NOT NULL,
	`sentAt` integer NOT NULL,
	`laidOn` text
);
--> statement-breakpoint
CREATE INDEX `sent_files_laid` ON `sent_files` (`laidOn`);