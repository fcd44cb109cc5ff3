package dachshund.web.page;

import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.List;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** Lists and lengths as text of a field. */
@Component("lists")
public class Lists {

    /** One list a line, its parts with commas between. */
    public String lines(List<List<String>> lists) {
        return lists.stream().map(parts -> String.join(", ", parts)).collect(Collectors.joining("\n"));
    }

    /** A length of time; empty for none. */
    public String period(Duration length) {
        return length.isZero() ? "" : PeriodText.write(length);
    }
}
