//! The `strelm` program: the server, the worker and the command line.

pub mod api;
pub mod backup;
pub mod command;
pub mod config;
mod edge;
mod in_folder;
mod interface;
mod new_site;
mod openings;
mod reach;
mod rescue;
mod rules;
pub mod serve;
pub mod survey;
mod words;
