CREATE TABLE `films` (
	`id` text PRIMARY KEY NOT NULL,
	`stepId` text NOT NULL,
	`position` integer NOT NULL,
	`name` text NOT NULL,
	`original` text NOT NULL,
	`hasPoster` integer DEFAULT false NOT NULL,
	`settings` text NOT NULL,
	`proxy` text,
	`sound` text,
	`strip` text,
	`facts` text,
	`problem` text,
	`createdAt` integer NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`stepId`) REFERENCES `steps`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `films_by_step` ON `films` (`stepId`);--> statement-breakpoint
CREATE INDEX `films_by_original` ON `films` (`original`);