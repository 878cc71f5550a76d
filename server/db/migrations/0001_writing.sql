CREATE TABLE `definitions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`kind` text NOT NULL,
	`title` text NOT NULL,
	`about` text NOT NULL,
	`rule` text NOT NULL,
	`updated_at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `definitions_name_unique` ON `definitions` (`name`);--> statement-breakpoint
CREATE TABLE `tries` (
	`strategy_id` integer NOT NULL,
	`hash` text NOT NULL,
	`from_date` text,
	`to_date` text,
	`at` integer NOT NULL,
	PRIMARY KEY(`strategy_id`, `hash`),
	FOREIGN KEY (`strategy_id`) REFERENCES `strategies`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
ALTER TABLE `versions` ADD `audit` text;