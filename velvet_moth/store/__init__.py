"""What is kept, in PostgreSQL: models, repositories, migrations. Imports core; knows no HTTP."""
