//! The application as a whole: its API against PostgreSQL, and what its users do, in a real browser.
//!
//! One program, since each further one takes as long to link as its tests to run; and tests of two files run side by side.

#![allow(clippy::unwrap_used, clippy::panic)]

mod api;
mod bad_connection;
mod captured;
mod contract;
mod desk;
mod edge;
mod every_operation;
mod exports;
mod failures;
mod find;
mod folders;
mod follow;
mod habits;
mod handing_over;
mod journey;
mod keyboard;
mod lists;
mod looks;
mod openings;
mod operations;
mod parts;
mod payloads;
mod people;
mod pictures;
mod races;
mod random_hands;
mod reach;
mod readings;
mod real_folders;
mod releases;
mod repairs;
mod rules;
mod sent_files;
mod setup;
mod tangled;
mod views;
mod why_nothing;
mod windows;
