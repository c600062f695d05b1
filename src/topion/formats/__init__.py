"""Files in and out, one module a format; reading builds nothing until all of it is sound."""
