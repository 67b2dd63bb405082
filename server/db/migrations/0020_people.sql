CREATE TABLE `accounts` (
	`id` text PRIMARY KEY NOT NULL,
	`personId` text NOT NULL,
	`accountId` text NOT NULL,
	`providerId` text NOT NULL,
	`accessToken` text,
	`refreshToken` text,
	`idToken` text,
	`accessTokenExpiresAt` integer,
	`refreshTokenExpiresAt` integer,
	`scope` text,
	`password` text,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `accounts_by_provider` ON `accounts` (`providerId`,`accountId`);--> statement-breakpoint
CREATE INDEX `accounts_by_person` ON `accounts` (`personId`);--> statement-breakpoint
CREATE TABLE `auditEntries` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`personId` text,
	`act` text NOT NULL,
	`thing` text
);
--> statement-breakpoint
CREATE INDEX `auditEntries_by_time` ON `auditEntries` (`at`);--> statement-breakpoint
CREATE TABLE `comments` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`slideId` text NOT NULL,
	`takeId` text,
	`at` real,
	`text` text NOT NULL,
	`personId` text,
	`answerTo` text,
	`createdAt` integer NOT NULL,
	`settledAt` integer,
	`deletedAt` integer,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`slideId`) REFERENCES `slides`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE set null
);
--> statement-breakpoint
CREATE INDEX `comments_by_lecture` ON `comments` (`lectureId`);--> statement-breakpoint
CREATE TABLE `invitations` (
	`hash` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`role` text NOT NULL,
	`email` text DEFAULT '' NOT NULL,
	`personId` text,
	`spaceId` text,
	`invitedBy` text,
	`createdAt` integer NOT NULL,
	`expiresAt` integer NOT NULL,
	`usedAt` integer,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `lectureMembers` (
	`lectureId` text NOT NULL,
	`personId` text NOT NULL,
	`right` text NOT NULL,
	PRIMARY KEY(`lectureId`, `personId`),
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `lectureMembers_by_person` ON `lectureMembers` (`personId`);--> statement-breakpoint
CREATE TABLE `passkeys` (
	`id` text PRIMARY KEY NOT NULL,
	`personId` text NOT NULL,
	`name` text,
	`publicKey` text NOT NULL,
	`credentialID` text NOT NULL,
	`counter` integer NOT NULL,
	`deviceType` text NOT NULL,
	`backedUp` integer NOT NULL,
	`transports` text,
	`aaguid` text,
	`createdAt` integer,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `passkeys_by_person` ON `passkeys` (`personId`);--> statement-breakpoint
CREATE TABLE `people` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`email` text NOT NULL,
	`emailVerified` integer DEFAULT false NOT NULL,
	`image` text,
	`role` text NOT NULL,
	`twoFactorEnabled` integer DEFAULT false NOT NULL,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	`leftAt` integer
);
--> statement-breakpoint
CREATE UNIQUE INDEX `people_email_unique` ON `people` (`email`);--> statement-breakpoint
CREATE TABLE `serverKeys` (
	`name` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`id` text PRIMARY KEY NOT NULL,
	`personId` text NOT NULL,
	`token` text NOT NULL,
	`expiresAt` integer NOT NULL,
	`ipAddress` text,
	`userAgent` text,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `sessions_token_unique` ON `sessions` (`token`);--> statement-breakpoint
CREATE INDEX `sessions_by_person` ON `sessions` (`personId`);--> statement-breakpoint
CREATE TABLE `spaceMembers` (
	`spaceId` text NOT NULL,
	`personId` text NOT NULL,
	`right` text NOT NULL,
	PRIMARY KEY(`spaceId`, `personId`),
	FOREIGN KEY (`spaceId`) REFERENCES `spaces`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `spaceMembers_by_person` ON `spaceMembers` (`personId`);--> statement-breakpoint
CREATE TABLE `spaces` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`createdAt` integer NOT NULL,
	`deletedAt` integer
);
--> statement-breakpoint
CREATE TABLE `twoFactors` (
	`id` text PRIMARY KEY NOT NULL,
	`personId` text NOT NULL,
	`secret` text NOT NULL,
	`backupCodes` text NOT NULL,
	`verified` integer DEFAULT true NOT NULL,
	`failedVerificationCount` integer DEFAULT 0 NOT NULL,
	`lockedUntil` integer,
	FOREIGN KEY (`personId`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `verifications` (
	`id` text PRIMARY KEY NOT NULL,
	`identifier` text NOT NULL,
	`value` text NOT NULL,
	`expiresAt` integer NOT NULL,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `verifications_by_identifier` ON `verifications` (`identifier`);--> statement-breakpoint
ALTER TABLE `lectures` ADD `spaceId` text;--> statement-breakpoint
ALTER TABLE `links` ADD `needsSignIn` integer DEFAULT false NOT NULL;--> statement-breakpoint
CREATE INDEX `clips_by_sound` ON `clips` (`sound`);--> statement-breakpoint
CREATE INDEX `clips_by_peaks` ON `clips` (`peaks`);--> statement-breakpoint
CREATE INDEX `steps_by_picture` ON `steps` (`picture`);--> statement-breakpoint
CREATE INDEX `steps_by_thumbnail` ON `steps` (`thumbnail`);--> statement-breakpoint
CREATE INDEX `takes_by_sound` ON `takes` (`sound`);--> statement-breakpoint
CREATE INDEX `takes_by_peaks` ON `takes` (`peaks`);--> statement-breakpoint
CREATE INDEX `takes_by_spectrogram` ON `takes` (`spectrogram`);