CREATE TABLE `clips` (
	`id` text PRIMARY KEY NOT NULL,
	`project_id` text NOT NULL,
	`name` text NOT NULL,
	`state` text NOT NULL,
	`error` text,
	`bytes` integer NOT NULL,
	`media` text NOT NULL,
	`frames` integer NOT NULL,
	`time_base` text,
	`pts` blob,
	`key` blob,
	`steady` text NOT NULL,
	`created_at` text NOT NULL,
	FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `clips_of_project` ON `clips` (`project_id`);--> statement-breakpoint
CREATE TABLE `edits` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`clip_id` text NOT NULL,
	`label` text NOT NULL,
	`undone` integer NOT NULL,
	`changes` text NOT NULL,
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `edits_of_clip` ON `edits` (`clip_id`);--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`clip_id` text NOT NULL,
	`kind` text NOT NULL,
	`state` text NOT NULL,
	`done` integer NOT NULL,
	`total` integer NOT NULL,
	`error` text,
	`started_at` text NOT NULL,
	`track_ids` text NOT NULL,
	`file_name` text,
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `jobs_of_clip` ON `jobs` (`clip_id`);--> statement-breakpoint
CREATE TABLE `pages` (
	`track_id` text NOT NULL,
	`page` integer NOT NULL,
	`bytes` blob NOT NULL,
	PRIMARY KEY(`track_id`, `page`),
	FOREIGN KEY (`track_id`) REFERENCES `tracks`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `projects` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`created_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `tracks` (
	`id` text PRIMARY KEY NOT NULL,
	`clip_id` text NOT NULL,
	`view` text NOT NULL,
	FOREIGN KEY (`clip_id`) REFERENCES `clips`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `tracks_of_clip` ON `tracks` (`clip_id`);