package dachshund.office.release;

import dachshund.core.definition.Definition;
import dachshund.core.definition.Plant;
import dachshund.core.release.Difference;
import dachshund.core.release.LeftWithout;
import dachshund.core.release.LeftWithout.Left;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Releases;
import dachshund.office.reach.Reaching;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.springframework.stereotype.Component;

/** Reads the drafts before they are released: what would follow, and what cannot work. */
@Component
public class ReleaseCheck {

    private final Definitions definitions;
    private final Releases releases;
    private final Engine engine;
    private final Reaching reaching;
    private final List<KindCheck<?>> checks;

    /**
     * A thing that changes.
     *
     * @param consequences what follows in databases, in sentences
     * @param problems     what must be mended before it can be released
     */
    public record Item(Difference difference, List<String> consequences, List<String> problems) {}

    ReleaseCheck(
            Definitions definitions, Releases releases, Engine engine, Reaching reaching, List<KindCheck<?>> checks) {
        this.definitions = definitions;
        this.releases = releases;
        this.engine = engine;
        this.reaching = reaching;
        this.checks = checks;
    }

    /** What the release of these drafts would change, and what of it cannot work. */
    public List<Item> items(Set<String> released) {
        return items(released, Progress.UNHEARD);
    }

    /** The same, told how far it is. */
    public List<Item> items(Set<String> released, Progress progress) {
        List<Definition> after = definitions.after(released);
        List<Definition> live = definitions.live();
        Plant plant = engine.plant(after);
        Map<String, List<Left>> left = LeftWithout.byThing(live, after, engine.plant(live), plant);
        try (ReviewPass pass = new ReviewPass(plant, after, reaching)) {
            List<Difference> differences = releases.differences(released);
            progress.step("Checking what would follow", differences.size(), true);
            List<Item> items = new ArrayList<>();
            for (Difference difference : differences) {
                items.add(item(difference, pass, left));
                progress.done(items.size());
            }
            return items;
        }
    }

    private String left(Left left) {
        return left.user().name() + " uses " + left.what() + ", which would be gone."
                + (definitions.draft(left.user().id()).isPresent()
                        ? " If its draft does without, release both."
                        : " Change " + left.user().name() + " first.");
    }

    private Item item(Difference difference, ReviewPass pass, Map<String, List<Left>> left) {
        List<String> consequences = new ArrayList<>();
        List<String> problems = new ArrayList<>();
        Definition thing = difference.thing();
        if (difference.change() == Difference.Change.REMOVED) {
            removed(thing, pass, problems);
        } else {
            consequences.addAll(thing.kind().advising(thing));
            if (pass.named(thing.kind(), thing.name()).stream()
                    .anyMatch(other -> !other.id().equals(thing.id()))) {
                problems.add(
                        "There would be two of this name. If the other one is drafted to be renamed or removed, release both.");
            }
            left.getOrDefault(thing.id(), List.of()).forEach(each -> problems.add(left(each)));
            checks.forEach(check -> check(check, thing, pass, consequences, problems));
        }
        return new Item(difference, consequences, problems);
    }

    private void removed(Definition thing, ReviewPass pass, List<String> problems) {
        if (!thing.kind().mayGoWhileNamed()) {
            pass.after().stream()
                    .filter(user -> user.kind().names(user, thing.id()))
                    .forEach(user -> problems.add("It is still used by " + user.name() + "."));
        }
        if (engine.held(thing.id()) > 0) {
            problems.add(engine.held(thing.id()) + " rows are still held for it and would have nowhere to go.");
        }
    }

    private static <D extends Definition> void check(
            KindCheck<D> check, Definition thing, ReviewPass pass, List<String> consequences, List<String> problems) {
        if (check.type().isInstance(thing)) {
            check.check(check.type().cast(thing), pass, consequences, problems);
        }
    }
}
