pub mod desk;
mod desk_rows;
pub mod export;
pub mod find;
pub mod list;
mod row;
pub mod shown;

pub use desk_rows::Sentence;
pub use row::PageRef;
