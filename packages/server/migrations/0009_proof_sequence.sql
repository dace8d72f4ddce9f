-- In one statement: MariaDB takes such a column with its key only.
ALTER TABLE `proofs` ADD `sequence` bigint unsigned AUTO_INCREMENT NOT NULL, ADD CONSTRAINT `proofs_sequence_unique` UNIQUE(`sequence`);
