package dachshund.web;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDateTime;

/** The rules between modules and rooms. */
@AnalyzeClasses(
        packages = {"dachshund.core", "dachshund.engine", "dachshund.links", "dachshund.office", "dachshund.web"},
        importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {

    @ArchTest
    static final ArchRule IMPORTS_POINT_ONE_WAY = layeredArchitecture()
            .consideringOnlyDependenciesInLayers()
            .layer("core")
            .definedBy("dachshund.core..")
            .layer("engine")
            .definedBy("dachshund.engine..")
            .layer("links")
            .definedBy("dachshund.links..")
            .layer("office")
            .definedBy("dachshund.office..")
            .layer("web")
            .definedBy("dachshund.web..")
            .whereLayer("web")
            .mayNotBeAccessedByAnyLayer()
            .whereLayer("office")
            .mayOnlyBeAccessedByLayers("web")
            .whereLayer("engine")
            .mayOnlyBeAccessedByLayers("office", "web")
            .whereLayer("links")
            .mayOnlyBeAccessedByLayers("office", "web");

    @ArchTest
    static final ArchRule THE_CORE_IS_PURE = noClasses()
            .that()
            .resideInAPackage("dachshund.core..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "org.springframework..",
                    "java.sql..",
                    "javax.sql..",
                    "java.net..",
                    "java.io..",
                    "java.nio.file..",
                    "org.slf4j..");

    @ArchTest
    static final ArchRule THE_CORE_STARTS_NO_THREAD = noClasses()
            .that()
            .resideInAPackage("dachshund.core..")
            .should()
            .dependOnClassesThat()
            .areAssignableTo(Thread.class)
            .orShould()
            .dependOnClassesThat()
            .haveFullyQualifiedName("java.util.concurrent.Executors");

    @ArchTest
    static final ArchRule PAGES_STAY_IN_WEB = noClasses()
            .that()
            .resideOutsideOfPackage("dachshund.web..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "jakarta.servlet..",
                    "org.thymeleaf..",
                    "org.springframework.web..",
                    "org.springframework.ui..",
                    "org.springframework.http..",
                    "org.springframework.security..");

    @ArchTest
    static final ArchRule SPRING_STAYS_ABOVE_THE_ENGINE = noClasses()
            .that()
            .resideInAnyPackage("dachshund.engine..", "dachshund.links..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("org.springframework..");

    @ArchTest
    static final ArchRule ONE_CLOCK = noClasses()
            .that()
            .doNotHaveFullyQualifiedName("dachshund.engine.clock.SystemClock")
            .should()
            .callMethod(Instant.class, "now")
            .orShould()
            .callMethod(System.class, "currentTimeMillis")
            .orShould()
            .callMethod(LocalDateTime.class, "now")
            .orShould()
            .callMethod(Clock.class, "systemUTC")
            .orShould()
            .callMethod(Clock.class, "systemDefaultZone");

    @ArchTest
    static final ArchRule THREADS_ARE_MADE_IN_ONE_PLACE = noClasses()
            .that()
            .haveNameNotMatching("dachshund\\.engine\\.thread\\.(Threads|RecordingThread)(\\$.*)?")
            .should()
            .callConstructor(Thread.class)
            .orShould()
            .callConstructor(Thread.class, Runnable.class)
            .orShould()
            .callConstructor(Thread.class, Runnable.class, String.class)
            .orShould()
            .dependOnClassesThat()
            .haveFullyQualifiedName("java.util.concurrent.Executors");

    @ArchTest
    static final ArchRule NO_CYCLE_BETWEEN_ROOMS =
            slices().matching("dachshund.(*).(*)..").should().beFreeOfCycles();
}
