mod bounds;
pub mod desk;
mod desk_links;
mod desk_rows;
pub mod export;
pub mod find;
pub mod kept_shown;
mod link_manner;
pub mod list;
mod repair;
mod row;
pub mod shown;
mod why_nothing;

pub use desk_rows::{OpeningRow, Sentence};
pub use list::{Filter, Window};
pub use repair::Repair;
pub use row::{Kind, PageRef, PageRow};
