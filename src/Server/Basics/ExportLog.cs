using Microsoft.AspNetCore.Http.HttpResults;
using SteadyLark.Core.People;

namespace SteadyLark.Server.Basics;

/// <summary>Records exports in the audit log.</summary>
public static class ExportLog
{
    /// <param name="what">What is exported, such as loads.</param>
    public static RouteHandlerBuilder Exports(this RouteHandlerBuilder builder, string what) =>
        builder.AddEndpointFilter(
            async (context, next) =>
            {
                var answer = await next(context);
                if (answer is IFileHttpResult file)
                {
                    var http = context.HttpContext;
                    await using var w = await http.RequestServices.GetRequiredService<Commands>().Begin(http.Actor());
                    w.Record(
                        EventKinds.ExportMade,
                        0,
                        $"{w.Actor.Name} exported {what} to {file.FileDownloadName}",
                        after: new { bytes = (answer as FileContentHttpResult)?.FileLength ?? (answer as FileStreamHttpResult)?.FileLength }
                    );
                    await w.Commit();
                }

                return answer;
            }
        );
}
