CREATE TABLE `quotas` (
	`of` text PRIMARY KEY NOT NULL,
	`quota` text NOT NULL
);
