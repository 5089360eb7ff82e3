pub mod list;
pub mod start;
pub mod take_back;
