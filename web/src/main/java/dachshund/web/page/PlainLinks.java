package dachshund.web.page;

import org.springframework.boot.web.servlet.FilterRegistrationBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.web.servlet.resource.ResourceUrlEncodingFilter;

/** Links of pages are as templates write them: nobody looks through the class path whether each of them is a file with a version. */
@Configuration
class PlainLinks {

    @Bean
    FilterRegistrationBean<ResourceUrlEncodingFilter> resourceUrlEncodingFilter() {
        FilterRegistrationBean<ResourceUrlEncodingFilter> none =
                new FilterRegistrationBean<>(new ResourceUrlEncodingFilter());
        none.setEnabled(false);
        return none;
    }
}
