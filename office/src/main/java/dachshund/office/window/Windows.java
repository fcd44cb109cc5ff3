package dachshund.office.window;

import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.time.PlantClock;
import dachshund.core.window.Context;
import dachshund.core.window.Span;
import dachshund.core.window.Window;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Definitions;
import dachshund.office.own.DachshundSettings;
import org.springframework.stereotype.Component;

/** What words of time mean here and now: in plant time, with the shift calendar that is released. */
@Component
public class Windows {

    private final Definitions definitions;
    private final DachshundSettings settings;
    private final PlantClock clock;

    Windows(Definitions definitions, DachshundSettings settings, PlantClock clock) {
        this.definitions = definitions;
        this.settings = settings;
        this.clock = clock;
    }

    public Context here() {
        ShiftCalendar calendar = definitions
                .live(ShiftCalendarDefinition.ID)
                .map(ShiftCalendarDefinition.class::cast)
                .map(ShiftCalendarDefinition::calendar)
                .orElse(ShiftCalendar.NONE);
        return new Context(clock.now(), settings.zone(), calendar);
    }

    /** @throws WindowProblem with a sentence and its place, where the words are no window or come to nothing */
    public Span span(String words) throws WindowProblem {
        return Window.read(words).span(here());
    }
}
