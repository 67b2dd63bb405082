ALTER TABLE `lectures` ADD `making` text;--> statement-breakpoint
ALTER TABLE `links` ADD `passcode` text;--> statement-breakpoint
ALTER TABLE `links` ADD `failures` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `links` ADD `lockedUntil` integer;--> statement-breakpoint
ALTER TABLE `links` ADD `views` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `links` ADD `downloads` text;--> statement-breakpoint
ALTER TABLE `parts` ADD `facts` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `bookmarks` text;