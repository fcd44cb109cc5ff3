package dachshund.web.watch;

import dachshund.core.definition.Definition;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import dachshund.office.definition.Definitions;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;

/** All rows that destinations have not taken: how many, since when, why, and how long it will take. */
@Needs(Right.RELEASE)
@Controller
class HeldListController {

    /** What so many say is said once, above. */
    private static final int SAID_ALIKE = 3;

    private final Definitions definitions;
    private final Engine engine;

    /**
     * The rows that one recorder holds for one destination.
     *
     * @param empty when there will be none any more, in words
     */
    public record Held(String recorderName, String destinationName, LaneStatus lane, String empty) {}

    HeldListController(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    @GetMapping("/watch/held")
    String held(Model model) {
        list(model);
        return "watch/held-list";
    }

    @GetMapping("/watch/held/list")
    String refreshed(Model model) {
        list(model);
        return "watch/held-list :: list";
    }

    private void list(Model model) {
        List<Held> held = engine.lanes().stream()
                .filter(lane -> lane.held() > 0)
                .map(lane -> new Held(name(lane.recorder()), name(lane.destination()), lane, empty(lane)))
                .sorted(Comparator.comparing((Held each) -> -each.lane().held()).thenComparing(Held::recorderName))
                .toList();
        Map<String, Long> said =
                held.stream().collect(Collectors.groupingBy(each -> each.lane().sentence(), Collectors.counting()));
        said.keySet().removeIf(sentence -> sentence.isEmpty() || said.get(sentence) < SAID_ALIKE);
        model.addAttribute("alike", said);
        model.addAttribute("held", held);
        model.addAttribute(
                "all", held.stream().mapToLong(each -> each.lane().held()).sum());
    }

    private String name(String id) {
        return definitions.find(id).map(Definition::name).orElse("removed: " + id);
    }

    private static String empty(LaneStatus lane) {
        if (lane.state() == LaneState.FAULTED) {
            return "when what it says is mended";
        }
        if (lane.state() == LaneState.HOLDING) {
            return "when it is back";
        }
        return lane.emptyIn().map(time -> "in " + PeriodText.roughly(time)).orElse("not at the present pace");
    }
}
