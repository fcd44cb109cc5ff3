package dachshund.core.shift;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;

/** Which shift a row belongs to, by what makes it. */
public enum ShiftOfRow {
    /** The shift that runs at its record time. */
    RUNNING,
    /** The same, but a row that is made at the very end of a shift belongs to the one that ends. */
    ENDING,
    /** The shift that ended last: its rows are made at shift ends only, also when they come late. */
    ENDED;

    public Optional<Worked> of(ShiftCalendar shifts, Instant at, ZoneId zone) {
        Optional<Worked> ended = this == RUNNING ? Optional.empty() : shifts.lastEnded(at, zone);
        return switch (this) {
            case RUNNING -> shifts.at(at, zone);
            case ENDING -> ended.filter(shift -> shift.to().equals(at)).or(() -> shifts.at(at, zone));
            case ENDED -> ended;
        };
    }
}
