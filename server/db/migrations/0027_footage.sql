CREATE TABLE `footage` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`takeId` text NOT NULL,
	`kind` text NOT NULL,
	`codec` text NOT NULL,
	`width` integer NOT NULL,
	`height` integer NOT NULL,
	`isPractice` integer DEFAULT false NOT NULL,
	`state` text NOT NULL,
	`recovered` integer DEFAULT false NOT NULL,
	`pieces` integer,
	`samples` integer DEFAULT 0 NOT NULL,
	`original` text,
	`proxy` text,
	`strip` text,
	`facts` text,
	`problem` text,
	`description` text DEFAULT '' NOT NULL,
	`createdAt` integer NOT NULL,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `footage_by_take` ON `footage` (`takeId`);--> statement-breakpoint
CREATE INDEX `footage_by_lecture` ON `footage` (`lectureId`);--> statement-breakpoint
ALTER TABLE `lectures` ADD `smallPicture` text;--> statement-breakpoint
ALTER TABLE `slides` ADD `smallPicture` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `footage` text;