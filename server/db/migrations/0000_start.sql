CREATE TABLE `bar_parts` (
	`hash` text PRIMARY KEY NOT NULL,
	`data` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `bar_sets` (
	`hash` text PRIMARY KEY NOT NULL,
	`count` integer NOT NULL,
	`first_time` integer NOT NULL,
	`last_time` integer NOT NULL,
	`last_close` real NOT NULL,
	`outline` text NOT NULL,
	`parts` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `calendars` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`session` text NOT NULL,
	`updated_at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `calendars_name_unique` ON `calendars` (`name`);--> statement-breakpoint
CREATE TABLE `decisions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`source_id` integer NOT NULL,
	`finding` text NOT NULL,
	`action` text NOT NULL,
	`text` text NOT NULL,
	`times` text NOT NULL,
	`reason` text NOT NULL,
	`created_at` integer NOT NULL,
	`undone_at` integer,
	FOREIGN KEY (`source_id`) REFERENCES `sources`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `decisions_source` ON `decisions` (`source_id`);--> statement-breakpoint
CREATE TABLE `derived_bars` (
	`key` text PRIMARY KEY NOT NULL,
	`bars_hash` text NOT NULL,
	`outside` integer NOT NULL,
	FOREIGN KEY (`bars_hash`) REFERENCES `bar_sets`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `extra_series` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`market_id` integer NOT NULL,
	`name` text NOT NULL,
	`points` text NOT NULL,
	`origin` text NOT NULL,
	`updated_at` integer NOT NULL,
	FOREIGN KEY (`market_id`) REFERENCES `markets`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `extra_series_name` ON `extra_series` (`market_id`,`name`);--> statement-breakpoint
CREATE TABLE `imports` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`upload_id` integer,
	`name` text DEFAULT 'the data service' NOT NULL,
	`job_id` integer NOT NULL,
	`target` text NOT NULL,
	`state` text NOT NULL,
	`report` text,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `job_chunks` (
	`job_id` integer NOT NULL,
	`chunk` integer NOT NULL,
	`finished_at` integer NOT NULL,
	PRIMARY KEY(`job_id`, `chunk`),
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`kind` text NOT NULL,
	`title` text NOT NULL,
	`input` text NOT NULL,
	`state` text NOT NULL,
	`total` integer NOT NULL,
	`chunk_size` integer NOT NULL,
	`done` integer NOT NULL,
	`elapsed` integer NOT NULL,
	`error` text,
	`created_at` integer NOT NULL,
	`finished_at` integer
);
--> statement-breakpoint
CREATE TABLE `ledger` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`strategy_id` integer NOT NULL,
	`what` text NOT NULL,
	`reference` integer NOT NULL,
	`count` integer NOT NULL,
	`from_date` text,
	`to_date` text,
	`at` integer NOT NULL,
	FOREIGN KEY (`strategy_id`) REFERENCES `strategies`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `ledger_reference` ON `ledger` (`what`,`reference`);--> statement-breakpoint
CREATE TABLE `lists` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`kind` text NOT NULL,
	`rule` text NOT NULL,
	`created_at` integer NOT NULL,
	`updated_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `markets` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`symbol` text NOT NULL,
	`name` text NOT NULL,
	`kind` text NOT NULL,
	`currency` text NOT NULL,
	`sector` text DEFAULT '' NOT NULL,
	`spec` text NOT NULL,
	`calendar_id` integer,
	`costs` text NOT NULL,
	`created_at` integer NOT NULL,
	`deleted_at` integer,
	FOREIGN KEY (`calendar_id`) REFERENCES `calendars`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `markets_symbol` ON `markets` (`symbol`);--> statement-breakpoint
CREATE TABLE `optimizations` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`version_id` integer NOT NULL,
	`job_id` integer NOT NULL,
	`number` integer NOT NULL,
	`search` text NOT NULL,
	`settings` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`version_id`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `portfolios` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`document` text NOT NULL,
	`revision` integer NOT NULL,
	`created_at` integer NOT NULL,
	`updated_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `preferences` (
	`key` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `probes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`version_id` integer NOT NULL,
	`kind` text NOT NULL,
	`input` text NOT NULL,
	`criteria_set_at` integer NOT NULL,
	`basis` text,
	`outcome` text,
	`ran_at` integer,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`version_id`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `quality_reports` (
	`key` text PRIMARY KEY NOT NULL,
	`report` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`version_id` integer NOT NULL,
	`number` integer NOT NULL,
	`fingerprint` text NOT NULL,
	`engine` text NOT NULL,
	`settings` text NOT NULL,
	`metrics` text NOT NULL,
	`outline` text NOT NULL,
	`result` blob NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`version_id`) REFERENCES `versions`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `runs_version` ON `runs` (`version_id`);--> statement-breakpoint
CREATE TABLE `source_changes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`source_id` integer NOT NULL,
	`at` integer NOT NULL,
	`what` text NOT NULL,
	`added` integer NOT NULL,
	`changed` integer NOT NULL,
	`rejected` integer NOT NULL,
	`raw_before` text,
	`raw_after` text NOT NULL,
	`note` text NOT NULL,
	FOREIGN KEY (`source_id`) REFERENCES `sources`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `source_changes_source` ON `source_changes` (`source_id`);--> statement-breakpoint
CREATE TABLE `sources` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`market_id` integer NOT NULL,
	`name` text NOT NULL,
	`timeframe` text NOT NULL,
	`is_default` integer NOT NULL,
	`bars_hash` text NOT NULL,
	`raw_hash` text NOT NULL,
	`format` text,
	`served` integer DEFAULT 0 NOT NULL,
	`checked_at` integer,
	`check_problem` text,
	`updated_at` integer NOT NULL,
	FOREIGN KEY (`market_id`) REFERENCES `markets`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`bars_hash`) REFERENCES `bar_sets`(`hash`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`raw_hash`) REFERENCES `bar_sets`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `sources_name` ON `sources` (`market_id`,`name`,`timeframe`);--> statement-breakpoint
CREATE TABLE `strategies` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`status` text NOT NULL,
	`created_at` integer NOT NULL,
	`updated_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `trials` (
	`optimization_id` integer NOT NULL,
	`number` integer NOT NULL,
	`values` text NOT NULL,
	`fit` real,
	`metrics` text NOT NULL,
	PRIMARY KEY(`optimization_id`, `number`),
	FOREIGN KEY (`optimization_id`) REFERENCES `optimizations`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `trials_fit` ON `trials` (`optimization_id`,`fit`);--> statement-breakpoint
CREATE TABLE `uploads` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`file` text NOT NULL,
	`entry` text,
	`packing` text NOT NULL,
	`bytes` integer NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `versions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`strategy_id` integer NOT NULL,
	`number` integer NOT NULL,
	`document` text NOT NULL,
	`hash` text NOT NULL,
	`note` text NOT NULL,
	`settings` text,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`strategy_id`) REFERENCES `strategies`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `versions_number` ON `versions` (`strategy_id`,`number`);