CREATE TABLE `rendered_frames` (
	`renderId` text NOT NULL,
	`frame` integer NOT NULL,
	`file` text NOT NULL,
	`bytes` integer NOT NULL,
	`seconds` real NOT NULL,
	`samples` real,
	`noise` real,
	`cleanedNoise` real,
	PRIMARY KEY(`renderId`, `frame`),
	FOREIGN KEY (`renderId`) REFERENCES `renders`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `renders` (
	`id` text PRIMARY KEY NOT NULL,
	`projectId` text NOT NULL,
	`title` text NOT NULL,
	`document` text NOT NULL,
	`order` text NOT NULL,
	`needs` text NOT NULL,
	`state` text NOT NULL,
	`message` text,
	`place` real NOT NULL,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`projectId`) REFERENCES `projects`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `settings` (
	`name` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
