fn main() -> anyhow::Result<()> {
    strelm_server::command::run()
}
