//! The `strelm` program: the server, the worker and the command line.

mod anchors;
pub mod api;
pub mod backup;
pub mod command;
pub mod config;
mod destinations;
mod edge;
mod footer;
mod in_folder;
mod interface;
mod mentions;
mod new_site;
mod openings;
mod reach;
mod rescue;
mod rules;
pub mod serve;
pub mod survey;
mod words;
