package dachshund.web.page;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.office.heavy.Heavy;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.config.BeanDefinition;
import org.springframework.context.annotation.ClassPathScanningCandidateComponentProvider;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.core.type.filter.AnnotationTypeFilter;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.method.annotation.ExceptionHandlerMethodResolver;

class PageAdviceTest {

    /** Whatever of ours an address may throw has its sentence, and is not called a defect. */
    @Test
    void allThatAnAddressSaysItThrowsIsToldInItsOwnWords() throws Exception {
        ExceptionHandlerMethodResolver pages = new ExceptionHandlerMethodResolver(PageAdvice.class);
        ExceptionHandlerMethodResolver api =
                new ExceptionHandlerMethodResolver(Class.forName("dachshund.web.api.ApiProblems"));
        assertThat(AnnotatedElementUtils.isAnnotated(
                        Class.forName("dachshund.web.api.ApiProblems"), RestControllerAdvice.class))
                .isTrue();
        List<String> untold = new ArrayList<>();
        int told = 0;
        for (Class<?> controller : controllers()) {
            boolean ofApi = controller.getPackageName().equals("dachshund.web.api");
            for (Method each : controller.getDeclaredMethods()) {
                if (!AnnotatedElementUtils.hasAnnotation(each, RequestMapping.class)) {
                    continue;
                }
                for (Class<?> thrown : each.getExceptionTypes()) {
                    if (thrown.getName().startsWith("dachshund.")) {
                        told++;
                        if ((ofApi ? api : pages).resolveMethodByExceptionType(thrown.asSubclass(Throwable.class))
                                == null) {
                            untold.add(controller.getSimpleName() + "." + each.getName() + ": " + thrown.getName());
                        }
                    }
                }
            }
        }
        assertThat(untold).isEmpty();
        assertThat(told).isGreaterThan(8);
        // Of files that are written meanwhile: declared as what any stream throws.
        assertThat(pages.resolveMethodByExceptionType(Heavy.Unable.class)).isNotNull();
    }

    private static List<Class<?>> controllers() throws ClassNotFoundException {
        ClassPathScanningCandidateComponentProvider scan = new ClassPathScanningCandidateComponentProvider(false);
        scan.addIncludeFilter(new AnnotationTypeFilter(Controller.class));
        List<Class<?>> all = new ArrayList<>();
        for (BeanDefinition found : scan.findCandidateComponents("dachshund.web")) {
            all.add(Class.forName(found.getBeanClassName()));
        }
        assertThat(all).hasSizeGreaterThan(40);
        return all;
    }
}
