CREATE TABLE `beds` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`name` text NOT NULL,
	`sound` text NOT NULL,
	`peaks` text NOT NULL,
	`samples` integer NOT NULL,
	`loudnessLufs` real,
	`settings` text NOT NULL,
	`createdAt` integer NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `beds_by_lecture` ON `beds` (`lectureId`);--> statement-breakpoint
CREATE TABLE `recordings` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`name` text NOT NULL,
	`sound` text NOT NULL,
	`peaks` text NOT NULL,
	`samples` integer NOT NULL,
	`speech` text NOT NULL,
	`createdAt` integer NOT NULL,
	`dividedAt` integer,
	`deletedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `recordings_by_lecture` ON `recordings` (`lectureId`);--> statement-breakpoint
ALTER TABLE `lectures` ADD `transition` text;--> statement-breakpoint
ALTER TABLE `slides` ADD `transition` text;--> statement-breakpoint
ALTER TABLE `slides` ADD `card` text;--> statement-breakpoint
ALTER TABLE `steps` ADD `deletedAt` integer;--> statement-breakpoint
ALTER TABLE `takes` ADD `stepMoments` text;