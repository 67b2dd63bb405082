CREATE TABLE `ltiKeys` (
	`id` text PRIMARY KEY NOT NULL,
	`privateKey` text NOT NULL,
	`createdAt` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `ltiLaunches` (
	`id` text PRIMARY KEY NOT NULL,
	`platformId` text NOT NULL,
	`token` text NOT NULL,
	`subject` text NOT NULL,
	`lineItem` text,
	`share` real NOT NULL,
	`heard` text DEFAULT '' NOT NULL,
	`result` real DEFAULT 0 NOT NULL,
	`isCompleted` integer DEFAULT false NOT NULL,
	`toldResult` real,
	`failures` integer DEFAULT 0 NOT NULL,
	`nextTryAt` integer DEFAULT 0 NOT NULL,
	`problem` text,
	`createdAt` integer NOT NULL,
	`changedAt` integer NOT NULL,
	FOREIGN KEY (`platformId`) REFERENCES `ltiPlatforms`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`token`) REFERENCES `links`(`token`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `ltiLaunches_by_place` ON `ltiLaunches` (`platformId`,`token`,`subject`,`lineItem`);--> statement-breakpoint
CREATE TABLE `ltiLogins` (
	`state` text PRIMARY KEY NOT NULL,
	`nonce` text NOT NULL,
	`platformId` text NOT NULL,
	`createdAt` integer NOT NULL,
	FOREIGN KEY (`platformId`) REFERENCES `ltiPlatforms`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `ltiPlatforms` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`issuer` text NOT NULL,
	`clientId` text NOT NULL,
	`deploymentIds` text NOT NULL,
	`authorizationUrl` text NOT NULL,
	`tokenUrl` text NOT NULL,
	`keysUrl` text NOT NULL,
	`createdAt` integer NOT NULL,
	`deletedAt` integer
);
--> statement-breakpoint
CREATE INDEX `ltiPlatforms_by_issuer` ON `ltiPlatforms` (`issuer`,`clientId`);