CREATE TABLE `captionTracks` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`language` text NOT NULL,
	`label` text NOT NULL,
	`origin` text NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `clips` (
	`key` text PRIMARY KEY NOT NULL,
	`takeId` text NOT NULL,
	`samples` integer NOT NULL,
	`sound` text NOT NULL,
	`peaks` text NOT NULL,
	`figures` text NOT NULL,
	FOREIGN KEY (`takeId`) REFERENCES `takes`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `cues` (
	`id` text PRIMARY KEY NOT NULL,
	`trackId` text NOT NULL,
	`slideId` text NOT NULL,
	`takeId` text,
	`start` real NOT NULL,
	`end` real NOT NULL,
	`text` text NOT NULL,
	`settings` text NOT NULL,
	FOREIGN KEY (`trackId`) REFERENCES `captionTracks`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`slideId`) REFERENCES `slides`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`takeId`) REFERENCES `takes`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `cues_by_track` ON `cues` (`trackId`,`slideId`);--> statement-breakpoint
CREATE TABLE `editionFiles` (
	`editionId` text NOT NULL,
	`name` text NOT NULL,
	`file` text NOT NULL,
	`bytes` integer NOT NULL,
	`contentType` text NOT NULL,
	FOREIGN KEY (`editionId`) REFERENCES `editions`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `edition_file_names` ON `editionFiles` (`editionId`,`name`);--> statement-breakpoint
CREATE TABLE `editions` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`number` integer NOT NULL,
	`createdAt` integer NOT NULL,
	`manifest` text NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `editions_by_lecture` ON `editions` (`lectureId`,`number`);--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`lectureId` text,
	`payload` text NOT NULL,
	`state` text NOT NULL,
	`attempts` integer DEFAULT 0 NOT NULL,
	`leaseUntil` integer,
	`progress` real DEFAULT 0 NOT NULL,
	`stage` text DEFAULT '' NOT NULL,
	`result` text,
	`error` text,
	`createdAt` integer NOT NULL,
	`endedAt` integer
);
--> statement-breakpoint
CREATE INDEX `jobs_by_state` ON `jobs` (`state`,`createdAt`);--> statement-breakpoint
CREATE TABLE `lectures` (
	`id` text PRIMARY KEY NOT NULL,
	`title` text NOT NULL,
	`language` text NOT NULL,
	`timing` text NOT NULL,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	`deletedAt` integer
);
--> statement-breakpoint
CREATE TABLE `links` (
	`token` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`name` text NOT NULL,
	`createdAt` integer NOT NULL,
	`expiresAt` integer,
	`revokedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `parts` (
	`key` text PRIMARY KEY NOT NULL,
	`file` text NOT NULL,
	`bytes` integer NOT NULL,
	`usedAt` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `slides` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`position` integer NOT NULL,
	`title` text NOT NULL,
	`altText` text NOT NULL,
	`script` text NOT NULL,
	`hidden` integer DEFAULT false NOT NULL,
	`keptTakeId` text,
	`timing` text NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `slides_by_lecture` ON `slides` (`lectureId`,`position`);--> statement-breakpoint
CREATE TABLE `steps` (
	`id` text PRIMARY KEY NOT NULL,
	`slideId` text NOT NULL,
	`position` integer NOT NULL,
	`picture` text NOT NULL,
	`thumbnail` text NOT NULL,
	`width` integer NOT NULL,
	`height` integer NOT NULL,
	FOREIGN KEY (`slideId`) REFERENCES `slides`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `steps_by_slide` ON `steps` (`slideId`,`position`);--> statement-breakpoint
CREATE TABLE `takes` (
	`id` text PRIMARY KEY NOT NULL,
	`slideId` text NOT NULL,
	`number` integer NOT NULL,
	`state` text NOT NULL,
	`recovered` integer DEFAULT false NOT NULL,
	`startedAt` integer NOT NULL,
	`microphone` text NOT NULL,
	`gaps` integer DEFAULT 0 NOT NULL,
	`samples` integer DEFAULT 0 NOT NULL,
	`sound` text,
	`peaks` text,
	`analysis` text,
	`problem` text,
	`deletedAt` integer,
	FOREIGN KEY (`slideId`) REFERENCES `slides`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `takes_by_slide` ON `takes` (`slideId`,`number`);--> statement-breakpoint
CREATE TABLE `tidyUps` (
	`takeId` text PRIMARY KEY NOT NULL,
	`recipe` text NOT NULL,
	FOREIGN KEY (`takeId`) REFERENCES `takes`(`id`) ON UPDATE no action ON DELETE cascade
);
