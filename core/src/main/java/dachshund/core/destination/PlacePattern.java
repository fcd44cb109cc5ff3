package dachshund.core.destination;

import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.sql.Dialect;
import java.util.Optional;

/** Names of a database and a table, either of which may be made from the row. */
public final class PlacePattern {

    /** How many tables or files the rows of one day (of record time, UTC) may open for one recorder in one destination: one a minute, and a few. */
    public static final int MOST_A_DAY = 1500;
    /** How many databases of one destination they may open; each needs connections of its own. */
    public static final int MOST_DATABASES_A_DAY = 20;

    private final Place text;
    private final NamePattern database;
    private final NamePattern table;

    /** @param text a place with patterns for names */
    public PlacePattern(Place text) {
        this.text = text;
        this.database = new NamePattern(text.database());
        this.table = new NamePattern(text.table());
    }

    /** The same names are the same places. */
    @Override
    public boolean equals(Object other) {
        return other instanceof PlacePattern pattern && pattern.text.equals(text);
    }

    @Override
    public int hashCode() {
        return text.hashCode();
    }

    /** Whether rows go to several places by it. */
    public boolean dynamic() {
        return database.dynamic() || table.dynamic();
    }

    /** Whether some row could go there. */
    public boolean mayBe(Place place) {
        return database.mayBe(place.database()) && table.mayBe(place.table());
    }

    /** What is wrong with the name of the table or file; empty where nothing is. */
    public Optional<String> tableProblem(Layout layout, Dialect dialect) {
        return table.problem(layout).or(() -> table.dynamic() ? Optional.empty() : dialect.placeProblem(text.table()));
    }

    /** What is wrong with the name of the database; empty where nothing is. */
    public Optional<String> databaseProblem(Layout layout, Dialect dialect) {
        if (text.database().isEmpty()) {
            return Optional.empty();
        }
        return database.problem(layout)
                .or(() -> database.dynamic() ? Optional.empty() : dialect.databaseProblem(text.database()));
    }

    public Place of(Row row, Layout layout, RowFacts facts) {
        return dynamic() ? new Place(database.of(row, layout, facts), table.of(row, layout, facts)) : text;
    }
}
