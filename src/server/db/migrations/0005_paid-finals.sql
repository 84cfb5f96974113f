CREATE TABLE `paid_finals` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`renderId` text NOT NULL,
	`frame` integer NOT NULL,
	`title` text NOT NULL,
	`pixels` integer NOT NULL,
	`model` real NOT NULL,
	`said` real NOT NULL,
	`low` real NOT NULL,
	`high` real NOT NULL,
	`samplesSaid` real NOT NULL,
	`samples` real NOT NULL,
	`paid` real NOT NULL,
	`clean` real,
	`createdAt` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `paid_finals_frame` ON `paid_finals` (`renderId`,`frame`);--> statement-breakpoint
ALTER TABLE `renders` ADD `forecast` text;