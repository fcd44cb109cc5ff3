package dachshund.links.file;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.sql.Dialect;
import java.util.List;
import java.util.Optional;

/** Files have no statements; names of columns may be anything, names of files may not. */
public final class FileDialect implements Dialect {

    private static final int LONGEST = 120;

    @Override
    public String engine() {
        return "Files";
    }

    @Override
    public String quote(String identifier) {
        return identifier;
    }

    @Override
    public Optional<String> identifierProblem(String identifier) {
        return identifier.isBlank()
                ? Optional.of("A name is needed.")
                : identifier.chars().anyMatch(c -> c < ' ')
                        ? Optional.of("A name has no line breaks or other control characters.")
                        : Optional.empty();
    }

    @Override
    public Optional<String> identifierHint(String identifier) {
        return Optional.empty();
    }

    /** A file name, with folders before it if need be: it never leaves the destination's folder. */
    @Override
    public Optional<String> placeProblem(String place) {
        if (place.isBlank() || place.length() > LONGEST) {
            return Optional.of("A file name has 1 to " + LONGEST + " characters.");
        }
        for (String part : place.split("/", -1)) {
            if (!part.matches("[\\p{L}\\p{N}_{][\\p{L}\\p{N} ._{}-]*") || part.endsWith(".") || part.endsWith(" ")) {
                return Optional.of(
                        "A file name has letters, digits, spaces and . _ - and begins with a letter, a digit or _; folders are divided by /.");
            }
        }
        return Optional.empty();
    }

    @Override
    public String typeName(SqlType type) {
        return type.words();
    }

    @Override
    public Optional<SqlType> readType(String typeName) {
        return Optional.empty();
    }

    @Override
    public List<String> createTable(String table, Layout layout, boolean temporary) {
        return List.of();
    }

    @Override
    public List<String> addColumn(String table, Column column) {
        return List.of();
    }

    @Override
    public String insert(String table, Layout layout) {
        return "";
    }

    @Override
    public String update(String table, Layout layout) {
        return "";
    }

    @Override
    public String insertOrUpdate(String table, Layout layout) {
        return "";
    }

    @Override
    public String call(String procedure, List<String> arguments) {
        return "";
    }

    @Override
    public String createDatabase(String name) {
        return "";
    }
}
