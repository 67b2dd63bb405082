CREATE TABLE `voiceLinks` (
	`token` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`kind` text NOT NULL,
	`name` text NOT NULL,
	`slideIds` text NOT NULL,
	`createdAt` integer NOT NULL,
	`expiresAt` integer,
	`revokedAt` integer,
	`passcode` text,
	`recordingsEndAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `voiceLinks_by_lecture` ON `voiceLinks` (`lectureId`);--> statement-breakpoint
CREATE TABLE `voices` (
	`id` text PRIMARY KEY NOT NULL,
	`token` text NOT NULL,
	`name` text NOT NULL,
	`keyHash` text NOT NULL,
	`subject` text,
	`createdAt` integer NOT NULL,
	FOREIGN KEY (`token`) REFERENCES `voiceLinks`(`token`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `voices_by_link` ON `voices` (`token`);--> statement-breakpoint
DROP INDEX `takes_by_slide`;--> statement-breakpoint
ALTER TABLE `takes` ADD `voiceId` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `voiceState` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `speaker` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `isAnswer` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `reading` text;--> statement-breakpoint
CREATE INDEX `takes_by_voice` ON `takes` (`voiceId`);--> statement-breakpoint
CREATE UNIQUE INDEX `takes_by_slide` ON `takes` (`slideId`,`number`) WHERE "takes"."isContinuous" = 0 AND "takes"."isAnswer" = 0;