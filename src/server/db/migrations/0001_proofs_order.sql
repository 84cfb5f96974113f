ALTER TABLE `proofs` ADD `part` text;--> statement-breakpoint
ALTER TABLE `proofs` ADD `laid` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `proofs` ADD `star` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `proofs` ADD `place` real;