CREATE TABLE `replacements` (
	`id` text PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL,
	`createdAt` integer NOT NULL,
	`found` text NOT NULL,
	FOREIGN KEY (`lectureId`) REFERENCES `lectures`(`id`) ON UPDATE no action ON DELETE cascade
);
