-- Words of titles and scripts, to be found: three letters in a row each, in every script. Slides are named by number, which the index needs.
CREATE TABLE `slideNumbers` (
	`id` integer PRIMARY KEY NOT NULL,
	`slideId` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `slideNumbers_by_slide` ON `slideNumbers` (`slideId`);--> statement-breakpoint
CREATE VIRTUAL TABLE `slideWords` USING fts5(`title`, `script`, content='', contentless_delete=1, tokenize='trigram remove_diacritics 1');--> statement-breakpoint
INSERT INTO `slideNumbers` (`slideId`) SELECT `id` FROM `slides`;--> statement-breakpoint
INSERT INTO `slideWords` (`rowid`, `title`, `script`) SELECT n.`id`, s.`title`, s.`script` FROM `slideNumbers` n JOIN `slides` s ON s.`id` = n.`slideId`;--> statement-breakpoint
CREATE TRIGGER `slides_words_added` AFTER INSERT ON `slides` BEGIN
	INSERT INTO `slideNumbers` (`slideId`) VALUES (new.`id`);
	INSERT INTO `slideWords` (`rowid`, `title`, `script`) SELECT `id`, new.`title`, new.`script` FROM `slideNumbers` WHERE `slideId` = new.`id`;
END;--> statement-breakpoint
CREATE TRIGGER `slides_words_changed` AFTER UPDATE OF `title`, `script` ON `slides` WHEN new.`title` <> old.`title` OR new.`script` <> old.`script` BEGIN
	DELETE FROM `slideWords` WHERE `rowid` = (SELECT `id` FROM `slideNumbers` WHERE `slideId` = new.`id`);
	INSERT INTO `slideWords` (`rowid`, `title`, `script`) SELECT `id`, new.`title`, new.`script` FROM `slideNumbers` WHERE `slideId` = new.`id`;
END;--> statement-breakpoint
CREATE TRIGGER `slides_words_gone` AFTER DELETE ON `slides` BEGIN
	DELETE FROM `slideWords` WHERE `rowid` = (SELECT `id` FROM `slideNumbers` WHERE `slideId` = old.`id`);
	DELETE FROM `slideNumbers` WHERE `slideId` = old.`id`;
END;
