using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace SteadyLark.Server.Basics;

/// <summary>Writes the API description to a file, from which the pages' types are generated.</summary>
public static class OpenApiFile
{
    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true };

    public static async Task Write(WebApplication app, Stream stream)
    {
        var provider = app.Services.GetRequiredKeyedService<IOpenApiDocumentProvider>("v1");
        var document = await provider.GetOpenApiDocumentAsync();
        document.Servers?.Clear();
        var node = JsonNode.Parse(await document.SerializeAsJsonAsync(OpenApiSpecVersion.OpenApi3_1))!;
        await JsonSerializer.SerializeAsync(stream, node, Indented);
    }
}
