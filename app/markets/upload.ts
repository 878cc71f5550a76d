export interface Uploaded {
  id: number;
  name: string;
  bytes: number;
}

/** Hands a file to the server as it is; `progress` hears the share that has gone, 0 to 1. An archive comes back as its files. */
export function uploadFile(file: File, progress: (share: number) => void): Promise<Uploaded[]> {
  return new Promise((resolve, reject) => {
    // fetch tells nothing of an upload's progress
    const request = new XMLHttpRequest();
    request.open("POST", `/uploads?name=${encodeURIComponent(file.name)}`);
    request.upload.onprogress = (event) => event.lengthComputable && progress(event.loaded / event.total);
    request.onload = () => {
      let body: { uploads?: Uploaded[]; problems?: { message: string }[] } = {};
      try {
        body = JSON.parse(request.responseText) as typeof body;
      } catch {
        // what is no answer of ours is told by its status below
      }
      if (request.status === 200 && body.uploads) resolve(body.uploads);
      else reject(new Error(body.problems?.[0]?.message ?? `${file.name} could not be handed in (${request.status})`));
    };
    request.onerror = () =>
      reject(new Error(`${file.name} could not be handed in: the connection broke, or the file is larger than the server takes`));
    request.send(file);
  });
}
