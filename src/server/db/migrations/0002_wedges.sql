CREATE TABLE `wedges` (
	`id` text PRIMARY KEY NOT NULL,
	`projectId` text NOT NULL,
	`document` text NOT NULL,
	`spec` text NOT NULL,
	`cells` text NOT NULL,
	`ended` integer DEFAULT false NOT NULL,
	`createdAt` integer NOT NULL,
	`deletedAt` integer,
	FOREIGN KEY (`projectId`) REFERENCES `projects`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `wedges_project` ON `wedges` (`projectId`);