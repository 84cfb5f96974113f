CREATE TABLE `stacks` (
	`id` text PRIMARY KEY NOT NULL,
	`title` text NOT NULL,
	`document` text NOT NULL,
	`layers` integer NOT NULL,
	`revision` integer NOT NULL,
	`picture` text,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	`deletedAt` integer
);
