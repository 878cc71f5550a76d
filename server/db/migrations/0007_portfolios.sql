CREATE TABLE `portfolio_looks` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`question` text NOT NULL,
	`count` integer NOT NULL,
	`from_date` text NOT NULL,
	`to_date` text NOT NULL,
	`chosen` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `portfolio_looks_question_unique` ON `portfolio_looks` (`question`);--> statement-breakpoint
CREATE TABLE `portfolio_versions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`portfolio_id` integer NOT NULL,
	`number` integer NOT NULL,
	`name` text NOT NULL,
	`document` text NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`portfolio_id`) REFERENCES `portfolios`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `portfolio_versions_portfolio` ON `portfolio_versions` (`portfolio_id`);