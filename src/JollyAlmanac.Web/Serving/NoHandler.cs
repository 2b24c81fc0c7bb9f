using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace JollyAlmanac.Web.Serving;

/// <summary>A request that a page has no handler for is not allowed there (405), in place of a page that was never filled.</summary>
public sealed class NoHandler : IPageFilter
{
    /// <inheritdoc />
    public void OnPageHandlerSelected(PageHandlerSelectedContext context) { }

    /// <inheritdoc />
    public void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (
            context.HandlerMethod is null
            && !HttpMethods.IsGet(context.HttpContext.Request.Method)
            && !HttpMethods.IsHead(context.HttpContext.Request.Method)
        )
            context.Result = new StatusCodeResult(StatusCodes.Status405MethodNotAllowed);
    }

    /// <inheritdoc />
    public void OnPageHandlerExecuted(PageHandlerExecutedContext context) { }
}
