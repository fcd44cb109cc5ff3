package dachshund.engine.lane;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Place;
import dachshund.core.destination.PlacePattern;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TablePlan;
import dachshund.engine.local.LocalStore;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Sees to the tables of one destination before rows are written to them: upkeep at the first row of a design, and what has
 * become of a table later. Belongs to the writer's thread.
 */
final class TableKeeper {

    private static final Logger LOG = LoggerFactory.getLogger(TableKeeper.class);

    private final String destinationName;
    private final LocalStore local;

    TableKeeper(String destinationName, LocalStore local) {
        this.destinationName = destinationName;
        this.local = local;
    }

    /** What was found. */
    sealed interface Seen {

        /** @param leftOut columns that the table does not have any more */
        record Ready(Set<String> leftOut) implements Seen {}

        /** Rows cannot be written. */
        record Faulty(String sentence) implements Seen {}

        /** The row must not make a place of its own. */
        record Refused(String sentence) implements Seen {}
    }

    /** @throws StoreProblem where the store is away or the table in another's use */
    Seen see(RowStore server, Lane lane, LaneDesign under, Place place, Instant recordTime) throws StoreProblem {
        RecorderDefinition design = under.recorder();
        RecorderDefinition.Where where = under.where();
        LocalDate day = LocalDate.ofInstant(recordTime, ZoneOffset.UTC);
        try {
            boolean known = local.places().knows(lane.name, under.name(), place.text());
            Optional<Seen> unfit = known ? Optional.empty() : unfit(server, lane, place, day);
            if (unfit.isEmpty() && !place.database().isEmpty()) {
                unfit = withoutDatabase(server, where, place.database());
            }
            if (unfit.isPresent()) {
                return unfit.get();
            }
            RowStore store = server.in(place.database());
            Optional<TableDescription> found = store.describe(place.table());
            TablePlan plan = known
                    ? TablePlan.whileRunning(
                            store.dialect(), place.table(), design.layout(), where.mode(), where.upkeep(), found)
                    : TablePlan.of(
                            store.dialect(), place.table(), design.layout(), where.mode(), where.upkeep(), found);
            if (!plan.problems().isEmpty()) {
                return new Seen.Faulty(String.join(" ", plan.problems()));
            }
            if (!plan.statements().isEmpty()) {
                store.apply(plan.statements());
                LOG.info("{}: upkeep ran {}", destinationName, plan.statements());
            }
            if (!plan.leftOut().isEmpty()) {
                LOG.warn(
                        "{}: the table {} has lost {}; they are left out from now on.",
                        destinationName,
                        place.words(),
                        plan.leftOut());
            }
            if (!known) {
                local.places().keep(lane.name, under.name(), place.text(), day);
            }
            return new Seen.Ready(new TreeSet<>(plan.leftOut()));
        } catch (StoreProblem problem) {
            if (problem.kind() != StoreProblem.Kind.TABLE) {
                throw problem;
            }
            return new Seen.Faulty(problem.getMessage());
        }
    }

    /** Why no row may make this place; empty where it may. */
    private Optional<Seen> unfit(RowStore server, Lane lane, Place place, LocalDate day) {
        Optional<String> name = server.dialect()
                .placeProblem(place.table())
                .or(() -> place.database().isEmpty()
                        ? Optional.empty()
                        : server.dialect().databaseProblem(place.database()));
        if (name.isPresent()) {
            return Optional.of(new Seen.Refused("The name " + place.words() + " cannot be used. " + name.get()));
        }
        List<String> places = local.places().openedOn(lane.name, day);
        if (places.size() >= PlacePattern.MOST_A_DAY && !places.contains(place.text())) {
            return Optional.of(new Seen.Refused("Rows of " + day + " opened " + PlacePattern.MOST_A_DAY
                    + " tables or files in " + destinationName + " already; a day opens no more."));
        }
        Set<String> databases =
                places.stream().map(each -> Place.read(each).database()).collect(Collectors.toSet());
        return databases.size() >= PlacePattern.MOST_DATABASES_A_DAY && !databases.contains(place.database())
                ? Optional.of(new Seen.Refused("Rows of " + day + " opened " + PlacePattern.MOST_DATABASES_A_DAY
                        + " databases of " + destinationName + " already; a day opens no more."))
                : Optional.empty();
    }

    /** Makes the database, if it is not there and the recorder may make its tables; says why rows cannot be written where it is not. */
    private Optional<Seen> withoutDatabase(RowStore server, RecorderDefinition.Where where, String database)
            throws StoreProblem {
        if (server.hasDatabase(database)) {
            return Optional.empty();
        }
        if (!where.upkeep().mayMake()) {
            return Optional.of(new Seen.Faulty("There is no database " + database + " at " + destinationName
                    + ", and the recorder may not make its tables."));
        }
        try {
            server.in(database).createDatabase();
        } catch (StoreProblem refused) {
            // The server has just answered, so this is no outage.
            return Optional.of(new Seen.Faulty("The database " + database + " could not be made at " + destinationName
                    + ". " + refused.getMessage()));
        }
        LOG.info("{}: made the database {}", destinationName, database);
        return Optional.empty();
    }
}
