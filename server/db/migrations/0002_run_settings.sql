CREATE TABLE `run_settings` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`created_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `run_settings_versions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`settings_id` integer NOT NULL,
	`number` integer NOT NULL,
	`saved` text NOT NULL,
	`note` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`settings_id`) REFERENCES `run_settings`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `run_settings_versions_number` ON `run_settings_versions` (`settings_id`,`number`);--> statement-breakpoint
ALTER TABLE `runs` ADD `under_id` integer REFERENCES run_settings_versions(id);