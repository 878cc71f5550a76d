CREATE TABLE `run_parts` (
	`run_id` integer NOT NULL,
	`part` text NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`run_id`, `part`),
	FOREIGN KEY (`run_id`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE no action
);
