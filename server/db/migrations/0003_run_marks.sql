ALTER TABLE `runs` ADD `note` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `tags` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `pinned` integer DEFAULT false NOT NULL;