CREATE TABLE `settings` (
	`name` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `clips` ADD `outside` text;--> statement-breakpoint
ALTER TABLE `clips` ADD `revision` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `clips` ADD `removed_at` text;--> statement-breakpoint
ALTER TABLE `edits` ADD `revision` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `edits` ADD `origin` text;--> statement-breakpoint
ALTER TABLE `edits` ADD `key` text;--> statement-breakpoint
CREATE INDEX `edits_by_key` ON `edits` (`key`);--> statement-breakpoint
ALTER TABLE `jobs` ADD `request` text;--> statement-breakpoint
ALTER TABLE `projects` ADD `removed_at` text;