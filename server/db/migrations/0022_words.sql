-- Words of titles and scripts, to be found (server/domain/lectures/word-index.ts): three letters in a row each, in every script.
-- The index names slides by number, which begins with that of their lecture. What has changed is written down, and read when somebody seeks
-- or nobody waits.
CREATE TABLE `lectureNumbers` (
	`id` integer PRIMARY KEY NOT NULL,
	`lectureId` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `lectureNumbers_by_lecture` ON `lectureNumbers` (`lectureId`);--> statement-breakpoint
CREATE TABLE `slideNumbers` (
	`id` integer PRIMARY KEY NOT NULL,
	`slideId` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `slideNumbers_by_slide` ON `slideNumbers` (`slideId`);--> statement-breakpoint
CREATE VIRTUAL TABLE `slideWords` USING fts5(`words`, content='', contentless_delete=1, tokenize='trigram case_sensitive 1');--> statement-breakpoint
CREATE TABLE `slidesToRead` (`slideId` text PRIMARY KEY NOT NULL);--> statement-breakpoint
INSERT INTO `slidesToRead` (`slideId`) SELECT `id` FROM `slides`;--> statement-breakpoint
CREATE TRIGGER `slides_words_added` AFTER INSERT ON `slides` BEGIN
	INSERT OR IGNORE INTO `slidesToRead` (`slideId`) VALUES (new.`id`);
END;--> statement-breakpoint
CREATE TRIGGER `slides_words_changed` AFTER UPDATE OF `title`, `script`, `deletedAt`, `isPlaced` ON `slides` BEGIN
	INSERT OR IGNORE INTO `slidesToRead` (`slideId`) VALUES (new.`id`);
END;--> statement-breakpoint
CREATE TRIGGER `slides_words_gone` AFTER DELETE ON `slides` BEGIN
	INSERT OR IGNORE INTO `slidesToRead` (`slideId`) VALUES (old.`id`);
END;
