CREATE INDEX `captionTracks_by_lecture` ON `captionTracks` (`lectureId`);--> statement-breakpoint
CREATE INDEX `clips_by_take` ON `clips` (`takeId`);--> statement-breakpoint
CREATE INDEX `lectures_by_space` ON `lectures` (`spaceId`);--> statement-breakpoint
CREATE INDEX `links_by_lecture` ON `links` (`lectureId`);--> statement-breakpoint
CREATE INDEX `takes_by_any_slide` ON `takes` (`slideId`);