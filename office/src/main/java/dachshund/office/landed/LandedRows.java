package dachshund.office.landed;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Layout;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.reach.Reaching;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** Rows of a recorder as its first destination holds them, read apart from what writes them. */
@Component
public class LandedRows {

    private final Definitions definitions;
    private final Engine engine;
    private final Reaching reaching;

    LandedRows(Definitions definitions, Engine engine, Reaching reaching) {
        this.definitions = definitions;
        this.engine = engine;
        this.reaching = reaching;
    }

    /** To be closed. A destination that is only drafted is connected to for this alone. */
    public static final class Opened implements AutoCloseable {

        private final RowReading store;
        private final boolean own;
        private final DestinationDefinition destination;
        private final Place place;
        private final Layout layout;

        private Opened(RowReading store, boolean own, DestinationDefinition destination, Place place, Layout layout) {
            this.store = store;
            this.own = own;
            this.destination = destination;
            this.place = place;
            this.layout = layout;
        }

        public DestinationDefinition destination() {
            return destination;
        }

        /** Where rows went last, if its names are patterns. */
        public Place place() {
            return place;
        }

        public Layout layout() {
            return layout;
        }

        /** The newest first. */
        public RowReading.TablePage newest(int most) throws StoreProblem {
            return store.in(place.database()).lastRows(place.table(), layout, most);
        }

        /** Every row, the oldest first. */
        public void each(RowReading.TakeRow taker) throws StoreProblem {
            store.in(place.database()).readAll(place.table(), layout, taker);
        }

        @Override
        public void close() {
            if (own) {
                store.close();
            }
        }
    }

    /** Empty where the recorder has no destination, or no row was made yet that says where it goes. */
    public Optional<Opened> of(RecorderDefinition recorder) {
        return recorder.wheres().stream().findFirst().flatMap(where -> definitions
                .destination(where.destination())
                .flatMap(destination -> opened(recorder, where, destination)));
    }

    private Optional<Opened> opened(RecorderDefinition recorder, Where where, DestinationDefinition destination) {
        Optional<Place> place = where.place().dynamic()
                ? engine.lastPlace(recorder.id(), destination.id())
                : Optional.of(new Place(where.database(), where.table()));
        boolean live =
                definitions.live(destination.id()).filter(destination::equals).isPresent();
        Optional<RowReading> shared = live ? engine.reading(destination.id()) : Optional.empty();
        return place.map(each -> new Opened(
                shared.orElseGet(() -> reaching.look(destination)),
                shared.isEmpty(),
                destination,
                each,
                recorder.layout()));
    }
}
