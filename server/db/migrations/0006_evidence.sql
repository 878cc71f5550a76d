CREATE TABLE `cascade_runs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`cascade_id` integer NOT NULL,
	`document` text NOT NULL,
	`versions` text NOT NULL,
	`stuck` text NOT NULL,
	`created_at` integer NOT NULL,
	`stopped_at` integer,
	FOREIGN KEY (`cascade_id`) REFERENCES `cascades`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `cascades` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`about` text NOT NULL,
	`document` text NOT NULL,
	`created_at` integer NOT NULL,
	`updated_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `overrulings` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`probe_id` integer NOT NULL,
	`basis` text NOT NULL,
	`reason` text NOT NULL,
	`name` text NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`probe_id`) REFERENCES `probes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `overrulings_probe` ON `overrulings` (`probe_id`);--> statement-breakpoint
CREATE TABLE `probe_results` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`probe_id` integer NOT NULL,
	`input` text NOT NULL,
	`basis` text NOT NULL,
	`outcome` text NOT NULL,
	`ran_at` integer NOT NULL,
	FOREIGN KEY (`probe_id`) REFERENCES `probes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `probe_results_probe` ON `probe_results` (`probe_id`);--> statement-breakpoint
CREATE TABLE `probe_units` (
	`job_id` integer NOT NULL,
	`first` integer NOT NULL,
	`output` text NOT NULL,
	PRIMARY KEY(`job_id`, `first`),
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `seal_openings` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`market_id` integer NOT NULL,
	`version_id` integer,
	`from_date` text NOT NULL,
	`to_date` text NOT NULL,
	`reason` text NOT NULL,
	`name` text NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`market_id`) REFERENCES `markets`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`version_id`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `seal_openings_market` ON `seal_openings` (`market_id`);--> statement-breakpoint
CREATE TABLE `seals` (
	`market_id` integer PRIMARY KEY NOT NULL,
	`from_date` text NOT NULL,
	`sealed_at` integer NOT NULL,
	FOREIGN KEY (`market_id`) REFERENCES `markets`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `status_moves` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`strategy_id` integer NOT NULL,
	`version_id` integer NOT NULL,
	`before` text NOT NULL,
	`after` text NOT NULL,
	`reason` text NOT NULL,
	`name` text NOT NULL,
	`evidence` text NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`strategy_id`) REFERENCES `strategies`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`version_id`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `status_moves_strategy` ON `status_moves` (`strategy_id`);--> statement-breakpoint
ALTER TABLE `bar_sets` ADD `sealed` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `ledger` ADD `markets` text;--> statement-breakpoint
ALTER TABLE `probes` ADD `engine` text;--> statement-breakpoint
ALTER TABLE `probes` ADD `job_id` integer REFERENCES jobs(id);--> statement-breakpoint
ALTER TABLE `probes` ADD `cascade_run_id` integer;--> statement-breakpoint
ALTER TABLE `probes` ADD `stage` integer;--> statement-breakpoint
ALTER TABLE `tries` ADD `markets` text;