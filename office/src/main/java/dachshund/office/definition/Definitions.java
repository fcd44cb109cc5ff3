package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.DefinitionKinds;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import java.security.SecureRandom;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Component;

/**
 * Everything that is designed, for reading: what is live and what is drafted, kept in memory. {@link Drafts} edits it and
 * {@link Releases} makes it live.
 */
@Component
public class Definitions {

    private static final int LONGEST_NAME = 120;

    private final Engine engine;
    private volatile long version;
    private volatile Designed designed = Designed.NOTHING;
    private volatile Known<Plant> plant;
    private volatile Known<Plant> livePlant;

    /** What was worked out of a state. */
    private record Known<T>(Designed of, T what) {}

    Definitions(Engine engine) {
        this.engine = engine;
    }

    Designed now() {
        return designed;
    }

    /** One step, so that nobody sees half of it. Whoever changes what is designed holds the lock of this object. */
    void become(Designed next) {
        designed = next;
        version++;
    }

    /** A new id. */
    public static String newId() {
        return String.format("%08x", new SecureRandom().nextInt());
    }

    /** The thing as drafted, else as live. */
    public Optional<Definition> find(String id) {
        return Optional.ofNullable(designed.drafted().get(id));
    }

    public <T extends Definition> Optional<T> find(Standing standing, Class<T> type, String id) {
        return (standing == Standing.DRAFTED ? find(id) : live(id))
                .filter(type::isInstance)
                .map(type::cast);
    }

    /** The thing as drafted, else as live, if it is of the type. */
    public <T extends Definition> Optional<T> find(Class<T> type, String id) {
        return find(id).filter(type::isInstance).map(type::cast);
    }

    /** The destination as drafted, else as live. */
    public Optional<DestinationDefinition> destination(String id) {
        return find(DestinationDefinition.class, id);
    }

    public Optional<Definition> live(String id) {
        return Optional.ofNullable(designed.live().get(id));
    }

    public List<Definition> live() {
        return List.copyOf(designed.live().values());
    }

    public Optional<Draft> draft(String id) {
        return Optional.ofNullable(designed.drafts().get(id));
    }

    /** In the order in which they were edited last. */
    public List<Draft> drafts() {
        return List.copyOf(designed.drafts().values());
    }

    /** Id of the release that is live, 0 before the first. */
    public long release() {
        return designed.release();
    }

    /** Everything as it would be if all drafts were released. */
    public List<Definition> drafted() {
        return List.copyOf(designed.drafted().values());
    }

    /** Everything as it would be if the drafts of these things were released, and no others. */
    public List<Definition> after(Set<String> released) {
        return designed.after(released);
    }

    /** All of one type as drafted, by name. */
    public <T extends Definition> List<T> all(Class<T> type) {
        return designed.all(type);
    }

    public Optional<TagInfo> tag(TagRef tag) {
        return designed.tag(tag);
    }

    /** Things that name the given one: recorders, equipment, formula tags of other sources. */
    public List<Definition> users(String id) {
        return designed.users(id);
    }

    /** Things that name the tag. */
    public List<Definition> users(TagRef tag) {
        return designed.users(tag);
    }

    /** What recorders would know of everything as it is drafted. */
    public Plant plant() {
        Designed of = designed;
        Known<Plant> known = plant;
        if (known == null || known.of() != of) {
            known = new Known<>(of, engine.plant(of.drafted().values()));
            plant = known;
        }
        return known.what();
    }

    /** What recorders know of everything that is live. */
    public Plant livePlant() {
        Designed of = designed;
        Known<Plant> known = livePlant;
        if (known == null || known.of().live() != of.live()) {
            known = new Known<>(of, engine.plant(of.live().values()));
            livePlant = known;
        }
        return known.what();
    }

    /** Counts the states there have been; another number means that something may have changed. */
    public long version() {
        return version;
    }

    /** A sentence on why the thing cannot have the name; empty where it can. */
    public String nameProblem(Class<? extends Definition> type, String id, String name) {
        return nameProblem(DefinitionKinds.of(type), id, name);
    }

    /** A sentence on why the thing cannot have the name; empty where it can. */
    public String nameProblem(DefinitionKind<?> kind, String id, String name) {
        if (name.isBlank()) {
            return "A name is needed.";
        }
        if (name.strip().length() > LONGEST_NAME) {
            return "A name has up to " + LONGEST_NAME + " characters.";
        }
        boolean taken = designed.all(kind.type()).stream()
                .anyMatch(other -> !other.id().equals(id) && other.name().equalsIgnoreCase(name.strip()));
        return taken
                ? "There is a " + kind.words().toLowerCase(Locale.ROOT) + " named " + name.strip() + " already."
                : "";
    }

    /** The name, or the name with a number where it is taken. */
    public String freeName(Class<? extends Definition> type, String id, String wanted) {
        String name = wanted;
        for (int n = 2; !nameProblem(type, id, name).isEmpty(); n++) {
            String number = " " + n;
            name = wanted.substring(0, Math.min(wanted.length(), LONGEST_NAME - number.length())) + number;
        }
        return name;
    }
}
