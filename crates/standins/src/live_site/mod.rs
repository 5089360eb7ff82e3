//! The editor's live site, simulated: finished HTML pages out of a folder of content, and Micropub to edit them.

mod listing;
mod mischief;
mod orders;
mod page;
mod publish;
mod routes;
mod server;
mod shelf;
mod state;
mod template;

pub use orders::{Mischief, On, Order, Trouble};
pub use page::{PageFile, PageFileError, PageType};
pub use server::{Options, Running, StartError, start};
pub use shelf::{Shelf, ShelfError};
