CREATE TABLE `records` (
	`id` text PRIMARY KEY NOT NULL,
	`clip_id` text NOT NULL,
	`kind` text NOT NULL,
	`view` text NOT NULL,
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `records_of_clip` ON `records` (`clip_id`);--> statement-breakpoint
INSERT INTO `records` SELECT `id`, `clip_id`, 'track', `view` FROM `tracks`;--> statement-breakpoint
CREATE TABLE `record_pages` (
	`record_id` text NOT NULL,
	`column_name` text NOT NULL,
	`page` integer NOT NULL,
	`bytes` blob NOT NULL,
	PRIMARY KEY(`record_id`, `column_name`, `page`),
	FOREIGN KEY (`record_id`) REFERENCES `records`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `record_pages` SELECT `track_id`, 'samples', `page`, `bytes` FROM `pages`;--> statement-breakpoint
DROP TABLE `pages`;--> statement-breakpoint
DROP TABLE `tracks`;--> statement-breakpoint
CREATE TABLE `scene_pages` (
	`clip_id` text NOT NULL,
	`page` integer NOT NULL,
	`bytes` blob NOT NULL,
	PRIMARY KEY(`clip_id`, `page`),
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `edits` ADD `touches` text;--> statement-breakpoint
ALTER TABLE `edits` ADD `bytes` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE TABLE `edit_pages` (
	`edit_id` integer NOT NULL,
	`record_id` text NOT NULL,
	`column_name` text NOT NULL,
	`page` integer NOT NULL,
	`bytes` blob,
	`other` blob,
	PRIMARY KEY(`edit_id`, `record_id`, `column_name`, `page`),
	FOREIGN KEY (`edit_id`) REFERENCES `edits`(`id`) ON UPDATE no action ON DELETE cascade
);
