package dachshund.core.definition;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.ServiceLoader;

/** The kinds of definitions that there are: each is a service of {@link DefinitionKind}. */
public final class DefinitionKinds {

    private static final List<DefinitionKind<?>> ALL = loaded();
    private static final Map<Class<?>, DefinitionKind<?>> BY_TYPE = new HashMap<>();
    private static final Map<String, DefinitionKind<?>> BY_ID = new HashMap<>();

    static {
        for (DefinitionKind<?> kind : ALL) {
            if (BY_ID.put(kind.id(), kind) != null || BY_TYPE.put(kind.type(), kind) != null) {
                throw new IllegalStateException("The kind of definition " + kind.id() + " is registered twice.");
            }
        }
    }

    private DefinitionKinds() {}

    @SuppressWarnings("rawtypes") // a service has no type arguments
    private static List<DefinitionKind<?>> loaded() {
        List<DefinitionKind<?>> all = new ArrayList<>();
        for (DefinitionKind kind : ServiceLoader.load(DefinitionKind.class, DefinitionKind.class.getClassLoader())) {
            all.add(kind);
        }
        all.sort(null);
        return List.copyOf(all);
    }

    /** In the order in which a release lists them. */
    public static List<DefinitionKind<?>> all() {
        return ALL;
    }

    /** @throws IllegalArgumentException with a sentence, where no such kind is registered */
    public static DefinitionKind<?> of(String id) {
        DefinitionKind<?> kind = BY_ID.get(id);
        if (kind == null) {
            throw new IllegalArgumentException(
                    "This version of Dachshund knows no kind of definition called " + id + ".");
        }
        return kind;
    }

    /** @throws IllegalArgumentException where no kind of this type is registered */
    public static DefinitionKind<?> of(Class<? extends Definition> type) {
        DefinitionKind<?> kind = BY_TYPE.get(type);
        if (kind == null) {
            throw new IllegalArgumentException(type.getName() + " is registered as no kind of definition.");
        }
        return kind;
    }
}
