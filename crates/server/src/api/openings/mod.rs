pub mod around;
pub mod best;
pub mod bridge;
pub mod reasons;
