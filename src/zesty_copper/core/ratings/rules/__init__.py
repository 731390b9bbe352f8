"""The rules: each looks at a sheet and gives findings. `check` runs them all; `rules.toml` names and sources them."""
