CREATE TABLE `assets` (
	`sha256` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`bytes` integer NOT NULL,
	`createdAt` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `documents` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`projectId` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`createdAt` integer NOT NULL,
	FOREIGN KEY (`projectId`) REFERENCES `projects`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `documents_project_revision` ON `documents` (`projectId`,`revision`);--> statement-breakpoint
CREATE TABLE `projects` (
	`id` text PRIMARY KEY NOT NULL,
	`title` text NOT NULL,
	`document` text NOT NULL,
	`revision` integer NOT NULL,
	`picture` text,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	`deletedAt` integer
);
--> statement-breakpoint
CREATE TABLE `proofs` (
	`id` text PRIMARY KEY NOT NULL,
	`projectId` text NOT NULL,
	`document` text NOT NULL,
	`note` text NOT NULL,
	`seconds` real NOT NULL,
	`samples` real NOT NULL,
	`noise` real,
	`picture` text NOT NULL,
	`film` text NOT NULL,
	`createdAt` integer NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`projectId`) REFERENCES `projects`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `proofs_project` ON `proofs` (`projectId`);